import * as THREE from "three";
import type { Bake, FlexBake } from "./bake";

const most = 4; // flexes of one mesh

/**
 * Bends, twists and cages as core/mesh has them (bend.go, cage.go), for the graphics processor: angles and how far the points of cages
 * have moved come from the core, frame by frame. A test holds the picture to the renderer's.
 */
const code = /* glsl */ `
uniform int flexCount;
uniform mat4 flexIn[${most}];
uniform mat4 flexOut[${most}];
uniform vec4 flexBase[${most}]; // and length
uniform vec4 flexAxis[${most}]; // and 0 for a bend, 1 for a twist
uniform vec4 flexTowards[${most}]; // and angle; of a cage its size
#ifdef FLEX_CAGE
uniform vec4 flexCage[${most}]; // points each way, and the row that they stand in
uniform highp sampler2D flexPoints;
void bernstein(out float b[8], int n, float u) {
  b[0] = 1.0;
  for (int k = 1; k < 8; k++) {
    if (k >= n) break;
    b[k] = u * b[k - 1];
    for (int i = 7; i > 0; i--) if (i < k) b[i] = u * b[i - 1] + (1.0 - u) * b[i];
    b[0] *= 1.0 - u;
  }
}
vec3 caged(vec3 p, int c, vec3 low, vec3 size) {
  ivec4 n = ivec4(flexCage[c]);
  vec3 u = clamp((p - low) / max(size, vec3(1e-20)), 0.0, 1.0);
  float bx[8]; float by[8]; float bz[8];
  bernstein(bx, n.x, size.x > 0.0 ? u.x : 0.5);
  bernstein(by, n.y, size.y > 0.0 ? u.y : 0.5);
  bernstein(bz, n.z, size.z > 0.0 ? u.z : 0.5);
  int at = 0;
  for (int z = 0; z < 8; z++) {
    if (z >= n.z) break;
    for (int y = 0; y < 8; y++) {
      if (y >= n.y) break;
      for (int x = 0; x < 8; x++) {
        if (x >= n.x) break;
        p += bx[x] * by[y] * bz[z] * texelFetch(flexPoints, ivec2(at, n.w), 0).xyz;
        at++;
      }
    }
  }
  return p;
}
#endif
vec3 flexed(vec3 p) {
  for (int i = 0; i < ${most}; i++) {
    if (i >= flexCount) break;
    vec3 q = (flexIn[i] * vec4(p, 1.0)).xyz;
#ifdef FLEX_CAGE
    if (flexAxis[i].w > 1.5) {
      p = (flexOut[i] * vec4(caged(q, i, flexBase[i].xyz, flexTowards[i].xyz), 1.0)).xyz;
      continue;
    }
#endif
    vec3 a = flexAxis[i].xyz, b = flexTowards[i].xyz;
    vec3 d = q - flexBase[i].xyz;
    float s = dot(d, a);
    float on = clamp(s, 0.0, flexBase[i].w);
    float angle = flexTowards[i].w * on / flexBase[i].w;
    float sine = sin(angle), cosine = cos(angle);
    if (flexAxis[i].w > 0.5) {
      q = flexBase[i].xyz + d * cosine + cross(a, d) * sine + a * s * (1.0 - cosine);
    } else {
      bool small = abs(angle) < 1e-3;
      float along = small ? 1.0 - angle * angle / 6.0 : sine / angle;
      float aside = small ? angle / 2.0 : (1.0 - cosine) / angle;
      float x = dot(d, b), rest = s - on;
      q += a * (on * along + rest * cosine - x * sine - s) + b * (on * aside + rest * sine + x * cosine - x);
    }
    p = (flexOut[i] * vec4(q, 1.0)).xyz;
  }
  return p;
}`;

const normals = /* glsl */ `
#include <beginnormal_vertex>
if (flexCount > 0) {
  vec3 side = abs(objectNormal.x) > 0.7 ? vec3(0.0, 1.0, 0.0) : vec3(1.0, 0.0, 0.0);
  vec3 u = normalize(cross(objectNormal, side)) * flexStep;
  vec3 v = normalize(cross(objectNormal, u)) * flexStep;
  vec3 p = vec3(position);
  objectNormal = normalize(cross(flexed(p + u) - flexed(p - u), flexed(p + v) - flexed(p - v)));
}`;

type Uniforms = Record<string, { value: unknown }>;

function inject(material: THREE.Material, uniforms: Uniforms) {
  material.onBeforeCompile = (shader) => {
    Object.assign(shader.uniforms, uniforms);
    shader.vertexShader = shader.vertexShader
      .replace("#include <common>", "#include <common>\nuniform float flexStep;" + code)
      .replace("#include <beginnormal_vertex>", normals)
      .replace("#include <begin_vertex>", "vec3 transformed = flexed(vec3(position));");
  };
  material.customProgramCacheKey = () => "flexed";
  material.needsUpdate = true;
}

/** Points of a cage on their way: how far each has been dragged, metres, and the size of the cage in them. */
export interface Dragged {
  points: Map<number, [number, number, number]>;
  size: [number, number, number];
}

/** Has another material of a mesh flex as its own does. */
export function flexAlike(material: THREE.Material, mesh: THREE.Mesh) {
  const uniforms = mesh.userData.flex as Uniforms | undefined;
  if (!uniforms) return;
  inject(material, uniforms);
  if (mesh.userData.caged) material.defines = { ...material.defines, FLEX_CAGE: "" };
}

const largest = 8 * 8 * 8; // points of a cage

/** The texture in which the points of a mesh's cages stand, a row each. */
function pointsOf(mesh: THREE.Mesh): THREE.DataTexture {
  let t = mesh.userData.flexPoints as THREE.DataTexture | undefined;
  if (!t) {
    t = new THREE.DataTexture(
      new Float32Array(4 * largest * most),
      largest,
      most,
      THREE.RGBAFormat,
      THREE.FloatType,
    );
    t.needsUpdate = true;
    mesh.userData.flexPoints = t;
  }
  return t;
}

const unit = (axis: number, w: number) =>
  new THREE.Vector4(axis === 0 ? 1 : 0, axis === 1 ? 1 : 0, axis === 2 ? 1 : 0, w);

/** Lets a mesh flex as the bake says, or no more where the list is empty. */
export function setFlex(mesh: THREE.Mesh, list: FlexBake[]) {
  const material = mesh.material as THREE.Material;
  let uniforms = mesh.userData.flex as Uniforms | undefined;
  if (list.length === 0) {
    if (uniforms) uniforms.flexCount!.value = 0;
    mesh.userData.flexes = undefined;
    return;
  }
  list = list.slice(0, most);
  if (!uniforms) {
    mesh.geometry.computeBoundingSphere();
    uniforms = { flexStep: { value: (mesh.geometry.boundingSphere?.radius ?? 1) * 1e-3 } };
    inject(material, uniforms);
    const depth = new THREE.MeshDepthMaterial();
    inject(depth, uniforms);
    mesh.customDepthMaterial = depth;
    mesh.userData.flex = uniforms;
    mesh.frustumCulled = false; // its bounds are those at rest
  }
  const caged = list.some((f) => f.cage);
  if (caged && !mesh.userData.caged) {
    mesh.userData.caged = true;
    for (const m of [material, mesh.customDepthMaterial!]) {
      m.defines = { ...m.defines, FLEX_CAGE: "" }; // what has no cage need not carry its loops
      m.needsUpdate = true;
    }
  }
  const filled = <T>(make: (f: FlexBake) => T) => ({
    value: Array.from({ length: most }, (_, i) => make(list[Math.min(i, list.length - 1)]!)),
  });
  const set: Uniforms = {
    flexCount: { value: list.length },
    flexIn: filled((f) => new THREE.Matrix4().fromArray(f.in)),
    flexOut: filled((f) => new THREE.Matrix4().fromArray(f.in).invert()),
    flexBase: filled((f) => new THREE.Vector4().fromArray(f.base)),
    flexAxis: filled((f) => unit(f.axis, f.cage ? 2 : f.twist ? 1 : 0)),
    flexTowards: filled((f) => (f.cage ? new THREE.Vector4(...f.cage.size) : unit(f.towards, 0))),
    ...(caged && {
      flexCage: filled((f) => new THREE.Vector4(...(f.cage?.n ?? [0, 0, 0]), list.indexOf(f))),
      flexPoints: { value: pointsOf(mesh) },
    }),
  };
  for (const [name, u] of Object.entries(set)) {
    if (uniforms[name]) uniforms[name].value = u.value;
    else uniforms[name] = u;
  }
  mesh.userData.flexes = list;
}

/** Sets the angles of a frame, and where the points of cages are. */
export function flexTo(mesh: THREE.Mesh, frame: number, b: Bake, dragged?: Dragged) {
  const list = mesh.userData.flexes as FlexBake[] | undefined;
  if (!list) return;
  const towards = (mesh.userData.flex as Uniforms).flexTowards!.value as THREE.Vector4[];
  const at = Math.min(frame, b.frames - 1);
  list.forEach((f, i) => {
    if (!f.cage) {
      towards[i]!.w = f.angles[at]!;
      return;
    }
    const texture = pointsOf(mesh);
    const into = texture.image.data as Float32Array;
    const { n, points } = f.cage;
    const count = n[0] * n[1] * n[2];
    for (let k = 0; k < count; k++)
      for (let c = 0; c < 3; c++) into[4 * (largest * i + k) + c] = points[3 * (count * at + k) + c]!;
    if (dragged && list.filter((o) => o.cage).length === 1) {
      const scales = [0, 1, 2]
        .map((c) => f.cage!.size[c]! / dragged.size[c]!)
        .filter((x) => x > 0 && x < Infinity);
      for (const [k, by] of dragged.points)
        if (k < count) by.forEach((v, c) => (into[4 * (largest * i + k) + c]! += v * (scales[0] ?? 1)));
    }
    texture.needsUpdate = true;
  });
}
