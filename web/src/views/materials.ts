import * as THREE from "three";
import type { Material, Texture } from "../api/types.gen";

const loader = new THREE.TextureLoader();
const pictures = new Map<string, THREE.Texture>();

const wraps: Record<string, THREE.Wrapping> = {
  repeat: THREE.RepeatWrapping,
  mirror: THREE.MirroredRepeatWrapping,
  clamp: THREE.ClampToEdgeWrapping,
};

function texture(t: Texture | null | undefined, colour: boolean, loaded: () => void): THREE.Texture | null {
  if (!t?.asset || (t.missing && !colour)) return null; // a checker stands for a missing base colour alone
  const key = [t.asset, t.image, t.wrapS, t.wrapT, colour, JSON.stringify(t.transform)].join("/");
  let x = pictures.get(key);
  if (!x) {
    x = loader.load(`/api/assets/${t.asset}/images/${t.image}`, loaded, undefined, () => {
      x!.userData.missing = true; // it was missing when the model came, too
      loaded();
    });
    x.flipY = false; // glTF has v = 0 at the top
    x.colorSpace = colour ? THREE.SRGBColorSpace : THREE.NoColorSpace;
    x.wrapS = wraps[t.wrapS ?? "repeat"] ?? THREE.RepeatWrapping;
    x.wrapT = wraps[t.wrapT ?? "repeat"] ?? THREE.RepeatWrapping;
    if (t.transform) {
      // Scaled, then turned, then moved, as the core does (Placing in core/material).
      const { offset, rotation, scale } = t.transform;
      const [sin, cos] = [Math.sin(rotation), Math.cos(rotation)];
      x.matrixAutoUpdate = false;
      x.matrix.set(
        cos * scale[0],
        sin * scale[1],
        offset[0],
        -sin * scale[0],
        cos * scale[1],
        offset[1],
        0,
        0,
        1,
      );
    }
    x.anisotropy = 8;
    pictures.set(key, x);
  }
  return x.userData.missing ? null : x;
}

/** How much rough glass glows by itself rather than showing what is behind it: as in core/render. */
function hazy(roughness: number): number {
  const k = Math.min(1, Math.max(0, (roughness - 0.1) / 0.4));
  return k * k * (3 - 2 * k);
}

/**
 * How much of what is behind a body is seen through it, and how much of its base colour it shows: about, by no angle. Glass
 * takes away light over the metres that a ray goes through it (Beer and Lambert), and hazy glass lets half of what falls on
 * it out at its back.
 */
function through(m: Material, chord: number): { alpha: number; shade: number } {
  const t = m.transmission ?? 0;
  if (t === 0) return { alpha: m.baseColor[3], shade: 1 };
  const haze = hazy(m.roughness);
  const colour = m.attenuationDistance ? (m.attenuationColor ?? [1, 1, 1]) : [1, 1, 1];
  const left =
    colour.reduce((sum, c) => sum + c ** (chord / (m.attenuationDistance || 1)), 0) / colour.length;
  const alpha = 1 - 0.92 * t * (1 - haze) * left; // the rest is reflected
  return { alpha: m.baseColor[3] * alpha, shade: (1 - t + 0.45 * t * haze) / alpha };
}

/**
 * The material of the views: the same metallic-roughness model as the renderer's. Both sides of every
 * face are drawn unless the material is seen through from behind, as the renderer does. Rays go so many metres through the
 * body on the mean.
 */
export function toThree(m: Material, colours: boolean, chord: number, loaded: () => void): THREE.Material {
  const { alpha: a, shade } = through(m, chord);
  const [r, g, b] = m.baseColor.slice(0, 3).map((v) => v * shade) as [number, number, number];
  if (m.unlit) {
    const flat = new THREE.MeshBasicMaterial({
      name: m.name,
      color: new THREE.Color(r, g, b),
      map: texture(m.baseColorTexture, true, loaded),
      vertexColors: colours,
      side: m.oneSided ? THREE.FrontSide : THREE.DoubleSide,
    });
    cover(flat, m, a);
    return flat;
  }
  const out = new THREE.MeshPhysicalMaterial({
    ior: m.ior || 1.5,
    clearcoat: m.clearcoat ?? 0,
    clearcoatRoughness: m.clearcoatRoughness ?? 0,
    sheen: m.sheenColor ? 1 : 0,
    sheenColor: new THREE.Color(...(m.sheenColor ?? [0, 0, 0])),
    sheenRoughness: m.sheenRoughness ?? 0,
    specularIntensity: m.specular ?? 1,
    specularColor: new THREE.Color(...(m.specularColor ?? [1, 1, 1])),
    name: m.name,
    color: new THREE.Color(r, g, b),
    metalness: m.metallic,
    roughness: m.roughness,
    side: m.oneSided ? THREE.FrontSide : THREE.DoubleSide,
    vertexColors: colours,
    map: texture(m.baseColorTexture, true, loaded),
    metalnessMap: texture(m.metallicRoughnessTexture, false, loaded),
    roughnessMap: texture(m.metallicRoughnessTexture, false, loaded),
    normalMap: texture(m.normalTexture, false, loaded),
    emissiveMap: m.emissiveTexture?.missing ? null : texture(m.emissiveTexture, true, loaded),
    emissive: new THREE.Color(...m.emissive),
    specularIntensityMap: texture(m.specularTexture, false, loaded),
    specularColorMap: m.specularColorTexture?.missing ? null : texture(m.specularColorTexture, true, loaded),
    clearcoatMap: texture(m.clearcoatTexture, false, loaded),
    clearcoatRoughnessMap: texture(m.clearcoatRoughnessTexture, false, loaded),
    clearcoatNormalMap: texture(m.clearcoatNormalTexture, false, loaded),
    sheenColorMap: m.sheenColorTexture?.missing ? null : texture(m.sheenColorTexture, true, loaded),
    sheenRoughnessMap: texture(m.sheenRoughnessTexture, false, loaded),
  });
  out.clearcoatNormalScale.setScalar(m.clearcoatNormalScale ?? 1);
  out.normalScale.setScalar(m.normalScale ?? 1);
  cover(out, m, a);
  if (m.transmission) reflecting(out, a);
  return out;
}

/**
 * Makes what glass reflects as bright as it is on anything else, however much is seen through it: blended with what is
 * behind, its colour would count as little as it covers. It covers as much as it shines.
 */
function reflecting(out: THREE.MeshPhysicalMaterial, alpha: number) {
  out.onBeforeCompile = (s) => {
    s.uniforms.unfaded = { value: Math.max(alpha, 1e-3) };
    s.fragmentShader = s.fragmentShader
      .replace("uniform float opacity;", "uniform float opacity; uniform float unfaded;")
      .replace(
        "#include <opaque_fragment>",
        `vec3 shine = ( totalDiffuse + ( outgoingLight - totalDiffuse ) / unfaded ) * diffuseColor.a;
        diffuseColor.a = clamp( max( shine.r, max( shine.g, shine.b ) ), diffuseColor.a, 1.0 );
        outgoingLight = shine / max( diffuseColor.a, 1e-4 );
        #include <opaque_fragment>`,
      );
  };
}

/** How much of the surface is there (glTF 2.0, 3.9.4). */
function cover(out: THREE.MeshPhysicalMaterial | THREE.MeshBasicMaterial, m: Material, alpha: number) {
  if (m.alphaMode === "BLEND" || m.transmission) {
    out.transparent = true;
    out.opacity = alpha;
    out.depthWrite = false;
  } else if (m.alphaMode === "MASK") {
    out.opacity = alpha;
    out.alphaTest = m.alphaCutoff ?? 0.5;
  }
}
