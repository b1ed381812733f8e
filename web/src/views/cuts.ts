import * as THREE from "three";
import type { Shot, ShotReply } from "../api/types.gen";

const most = 4; // cutters that a view draws

const kinds: Record<string, number> = { slab: 0, box: 1, cylinder: 2, sphere: 3, part: 4 };

const none = new Array<number>(most).fill(0);

/** Where the cutters of a shot are on the frame that is drawn, for all materials alike. */
export class Cuts {
  readonly uniforms = {
    cutCount: { value: 0 },
    cutIn: { value: Array.from({ length: most }, () => new THREE.Matrix4()) }, // from the room into the cutter
    cutSize: { value: Array.from({ length: most }, () => new THREE.Vector4()) }, // halves of its size, and its kind
    cutRadius: { value: new Array<number>(most).fill(0) }, // of another part's shape, which of them
    cutDepths: { value: null as THREE.Texture | null }, // of those (Peel)
    cutView: { value: new THREE.Vector4(0, 0, 1, 1) }, // where a view lies in its target, pixels
    cutRays: { value: new THREE.Matrix4() }, // from there to the room
  };
  list: number[] = []; // parts of the shot that cut
  shapes: string[] = []; // parts in the shape of which some of them do
  private up = new Map<string, string>(); // what each part is in

  /** Takes over the cutters of a shot. */
  update({ document: shot, shown }: ShotReply) {
    this.list = shot.parts
      .map((_, i) => i)
      .filter((i) => {
        const cut = shot.parts[i]!.cut;
        return cut && !shown[i]!.hidden && (cut.shape !== "part" || cut.of);
      })
      .slice(0, most);
    this.up = new Map(this.list.length > 0 ? shot.parts.map((p) => [p.id, p.parent]) : []);
    const u = this.uniforms;
    u.cutCount.value = this.list.length;
    this.shapes = [];
    this.list.forEach((part, k) => {
      const { shape, size, radius } = shot.parts[part]!.cut!;
      u.cutSize.value[k]!.set(size[0] / 2, size[1] / 2, size[2] / 2, kinds[shape]!);
      u.cutRadius.value[k] =
        shape === "part" ? this.shapes.push(shot.parts[part]!.cut!.of!) - 1 : (radius ?? 0);
    });
  }

  /** Puts them where they are. */
  pose(worldOf: (part: number) => THREE.Matrix4 | undefined) {
    this.list.forEach((part, k) => {
      const m = worldOf(part);
      if (m) this.uniforms.cutIn.value[k]!.copy(m).invert();
    });
  }

  /** Which of the cutters cut a part, as an array of 0 and 1. */
  of(shot: Shot, id: string): number[] {
    if (this.list.length === 0) return none;
    const inside = (root: string) => {
      for (let p: string | undefined = id; p; p = this.up.get(p)) if (p === root) return true;
      return false;
    };
    return Array.from({ length: most }, (_, k) => {
      const cut = shot.parts[this.list[k] ?? -1]?.cut;
      return cut && (cut.parts.length === 0 || cut.parts.some(inside)) ? 1 : 0;
    });
  }
}

/**
 * Cutters as core/render/cut.go has them, for the graphics processor: what lies in one is left out. Cut faces are drawn by caps.ts. A test
 * holds the picture to the renderer's.
 */
const code = /* glsl */ `
uniform int cutCount;
uniform mat4 cutIn[${most}];
uniform vec4 cutSize[${most}];
uniform float cutRadius[${most}];
uniform float cutOn[${most}];
centroid varying vec3 cutAt;
#ifndef CUT_SHADOW
uniform highp sampler2DArray cutDepths;
// Where a ray goes out of a mesh for the n-th time.
float cutExit(int i, int n) {
  vec4 d = texelFetch(cutDepths, ivec3(gl_FragCoord.xy, int(cutRadius[i])), 0);
  for (int k = 0; k < 4; k++) if (d[k] < 0.0 && n-- == 0) return -d[k];
  return 2.0;
}
#endif
bool cutHolds(int i, vec3 at) {
  vec3 p = (cutIn[i] * vec4(at, 1.0)).xyz;
  vec4 s = cutSize[i];
  float r = cutRadius[i];
  if (s.w > 3.5) { // a mesh: between the depths where it begins and ends behind this pixel
#ifdef CUT_SHADOW
    return false;
#else
    vec4 d = texelFetch(cutDepths, ivec3(gl_FragCoord.xy, int(r)), 0);
    bool in_ = d.x < 0.0;
    for (int k = 0; k < 4; k++) // what is entered and never left is an edge that only just is met
      if (gl_FragCoord.z > abs(d[k])) in_ = d[k] > 0.0 && k < 3 && abs(d[min(k + 1, 3)]) < 1.5;
    return in_;
#endif
  }
  if (s.w < 0.5) return abs(p.y) < s.y;
  if (s.w < 1.5) {
    vec3 q = abs(p) - (s.xyz - r);
    return length(max(q, 0.0)) + min(max(q.x, max(q.y, q.z)), 0.0) < r;
  }
  if (s.w < 2.5) return abs(p.y) < s.y && length(p.xz) < r;
  return length(p) < r;
}
bool cutAway(vec3 at) {
  for (int i = 0; i < ${most}; i++) {
    if (i >= cutCount) break;
    if (cutOn[i] > 0.5 && cutHolds(i, at)) return true;
  }
  return false;
}
// How far along a line, from a point in a direction of the length 1, it goes out of a cutter; -1 where it does not go through it.
float cutLeft(int i, vec3 from, vec3 way) {
  vec3 p = (cutIn[i] * vec4(from, 1.0)).xyz, d = mat3(cutIn[i]) * way;
  vec4 s = cutSize[i];
  float r = cutRadius[i], near = 0.0, far = 1e30;
  if (s.w < 2.5) { // between planes
    vec3 half_ = s.w < 0.5 || s.w > 1.5 ? vec3(1e30, s.y, 1e30) : s.xyz;
    vec3 u = (-half_ - p) / d, v = (half_ - p) / d;
    vec3 low = min(u, v), high = max(u, v);
    near = max(near, max(low.x, max(low.y, low.z)));
    far = min(far, min(high.x, min(high.y, high.z)));
  }
  if (s.w > 1.5) { // within a radius
    vec3 o = p, e = d;
    if (s.w < 2.5) { o.y = 0.0; e.y = 0.0; }
    float a = dot(e, e), b = dot(o, e), c = dot(o, o) - r * r, q = b * b - a * c;
    if (q < 0.0) return -1.0;
    near = max(near, (-b - sqrt(q)) / a);
    far = min(far, (-b + sqrt(q)) / a);
  }
  if (near >= far) return -1.0;
  if (r <= 0.0 || s.w < 0.5 || s.w > 1.5) return far;
  float stretch = length(d); // back to a rounded edge: as far as the box is away, again and again
  for (int k = 0; k < 32; k++) {
    vec3 q = abs(p + d * far) - (s.xyz - r);
    float away = length(max(q, 0.0)) + min(max(q.x, max(q.y, q.z)), 0.0) - r;
    if (away < 1e-5 * s.y) return far;
    if ((far -= away / stretch) < near) return -1.0;
  }
  return far;
}
// Whether a point lies behind where one looks out of a cutter. Whether one looks through it at all, the middle of the pixel says: so all
// that is counted there is counted alike.
uniform vec4 cutView;
uniform mat4 cutRays;
bool cutBehind(int i, vec3 at) {
  vec2 middle = 2.0 * (gl_FragCoord.xy - cutView.xy) / cutView.zw - 1.0;
  vec4 a = cutRays * vec4(middle, -1.0, 1.0), b = cutRays * vec4(middle, 1.0, 1.0);
  vec3 from = a.xyz / a.w, way = normalize(b.xyz / b.w - from);
  float left = cutLeft(i, from, way);
  if (left < 0.0) return false;
  // Where exactly, the point that is asked for: along an edge of the cutter another one may be looked past.
  vec3 eye = isOrthographic ? at - way * dot(at - from, way) : cameraPosition, to = at - eye;
  float own = cutLeft(i, eye, normalize(to));
  return own < 0.0 ? dot(at - from, way) > left : length(to) > own;
}`;

const vertex = /* glsl */ `
#include <project_vertex>
vec4 cutWorld = vec4(transformed, 1.0);
#ifdef USE_INSTANCING
  cutWorld = instanceMatrix * cutWorld;
#endif
cutAt = (modelMatrix * cutWorld).xyz;`;

/** Has a material know where cutters are, and leave out of itself what GLSL says that is true of a point cutAt of the room. */
export function inject(
  material: THREE.Material,
  uniforms: Record<string, { value: unknown }>,
  key: string,
  gone: string,
) {
  const before = material.onBeforeCompile.bind(material);
  const was = material.customProgramCacheKey.bind(material);
  material.onBeforeCompile = (shader, renderer) => {
    before(shader, renderer);
    Object.assign(shader.uniforms, uniforms);
    shader.vertexShader = shader.vertexShader
      .replace("#include <common>", "#include <common>\ncentroid varying vec3 cutAt;")
      .replace("#include <project_vertex>", vertex);
    shader.fragmentShader = shader.fragmentShader
      .replace("#include <common>", "#include <common>" + code)
      .replace(
        "#include <clipping_planes_fragment>",
        `if (${gone}) discard;\n#include <clipping_planes_fragment>`,
      );
  };
  material.customProgramCacheKey = () => was() + key;
  material.needsUpdate = true;
}

/** Lets cutters cut a mesh, as they are told by an array of 0 and 1. Nothing is changed about one that none ever cut. */
export function setCuts(mesh: THREE.Mesh, cuts: Cuts, on: number[]) {
  const known = mesh.userData.cuts as { value: number[] } | undefined;
  if (known) {
    known.value = on;
    return;
  }
  if (!on.includes(1)) return;
  const flags = { value: on };
  const uniforms = { ...cuts.uniforms, cutOn: flags };
  inject(mesh.material as THREE.Material, uniforms, " cut", "cutAway(cutAt)");
  mesh.customDepthMaterial ??= new THREE.MeshDepthMaterial();
  mesh.customDepthMaterial.defines = { ...mesh.customDepthMaterial.defines, CUT_SHADOW: "" };
  inject(mesh.customDepthMaterial, uniforms, " cut", "cutAway(cutAt)");
  mesh.userData.cuts = flags;
}
