import * as THREE from "three";
import type { Bake, FlexBake } from "./bake";

const most = 4; // flexes of one mesh

/**
 * Bends and twists as core/motion/flex.go has them, for the graphics processor: the angles come from the core,
 * frame by frame. A test holds the picture to the renderer's.
 */
const code = /* glsl */ `
uniform int flexCount;
uniform mat4 flexIn[${most}];
uniform mat4 flexOut[${most}];
uniform vec4 flexBase[${most}]; // and length
uniform vec4 flexAxis[${most}]; // and 0 for a bend, 1 for a twist
uniform vec4 flexTowards[${most}]; // and angle
vec3 flexed(vec3 p) {
  for (int i = 0; i < ${most}; i++) {
    if (i >= flexCount) break;
    vec3 q = (flexIn[i] * vec4(p, 1.0)).xyz;
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
  const filled = <T>(make: (f: FlexBake) => T) => ({
    value: Array.from({ length: most }, (_, i) => make(list[Math.min(i, list.length - 1)]!)),
  });
  const set: Uniforms = {
    flexCount: { value: list.length },
    flexIn: filled((f) => new THREE.Matrix4().fromArray(f.in)),
    flexOut: filled((f) => new THREE.Matrix4().fromArray(f.in).invert()),
    flexBase: filled((f) => new THREE.Vector4().fromArray(f.base)),
    flexAxis: filled((f) => unit(f.axis, f.twist ? 1 : 0)),
    flexTowards: filled((f) => unit(f.towards, 0)),
  };
  for (const [name, u] of Object.entries(set)) {
    if (uniforms[name]) uniforms[name].value = u.value;
    else uniforms[name] = u;
  }
  mesh.userData.flexes = list;
}

/** Sets the angles of a frame. */
export function flexTo(mesh: THREE.Mesh, frame: number, b: Bake) {
  const list = mesh.userData.flexes as FlexBake[] | undefined;
  if (!list) return;
  const towards = (mesh.userData.flex as Uniforms).flexTowards!.value as THREE.Vector4[];
  list.forEach((f, i) => (towards[i]!.w = f.angles[Math.min(frame, b.frames - 1)]!));
}
