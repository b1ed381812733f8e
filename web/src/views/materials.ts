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
  if (!t?.asset) return null;
  const key = [t.asset, t.image, t.wrapS, t.wrapT, colour].join("/");
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
    x.anisotropy = 8;
    pictures.set(key, x);
  }
  return x.userData.missing ? null : x;
}

/**
 * The material of the views: the same metallic-roughness model as the renderer's. Both sides of every
 * face are drawn, as the renderer does.
 */
export function toThree(m: Material, colours: boolean, loaded: () => void): THREE.MeshStandardMaterial {
  const [r, g, b, a] = m.baseColor;
  const out = new THREE.MeshStandardMaterial({
    name: m.name,
    color: new THREE.Color(r, g, b),
    metalness: m.metallic,
    roughness: m.roughness,
    side: THREE.DoubleSide,
    vertexColors: colours,
    map: texture(m.baseColorTexture, true, loaded),
    metalnessMap: texture(m.metallicRoughnessTexture, false, loaded),
    roughnessMap: texture(m.metallicRoughnessTexture, false, loaded),
    normalMap: texture(m.normalTexture, false, loaded),
    emissiveMap: texture(m.emissiveTexture, true, loaded),
    emissive: new THREE.Color(...m.emissive),
  });
  out.normalScale.setScalar(m.normalScale ?? 1);
  if (m.alphaMode === "BLEND") {
    out.transparent = true;
    out.opacity = a;
    out.depthWrite = false;
  } else if (m.alphaMode === "MASK") {
    out.opacity = a;
    out.alphaTest = m.alphaCutoff ?? 0.5;
  }
  return out;
}
