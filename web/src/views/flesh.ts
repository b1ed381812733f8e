import * as THREE from "three";
import type { Part } from "../api/types.gen";
import { matrixAt, type Bake } from "./bake";

/**
 * What hangs on bones or is mixed with shapes, as core/mesh/flesh.go has it: the matrices of the bones and the weights come from the
 * core, frame by frame. Up to eight bones a point, which the library's own skinning does not do; on the processor, so that what is
 * pressed and measured is what is seen. A test holds the picture to the renderer's.
 */
interface Flesh {
  positions: Float32Array; // at rest
  normals: Float32Array | null;
  targets: { positions: Float32Array | null; normals: Float32Array | null }[];
  joints: Uint16Array | null; // eight a point, those that are used first
  shares: Float32Array | null;
  frame: string; // that it is posed for
}

const bonesOf = 8;

/** Gives a mesh points of its own that bones and shapes move, if its part has any. */
export function setFlesh(mesh: THREE.Mesh, part: Part) {
  if ((!part.skin && !part.morphs?.length) || mesh.userData.flesh) return;
  const from = mesh.geometry;
  const own = new THREE.BufferGeometry();
  for (const name of Object.keys(from.attributes))
    own.setAttribute(
      name,
      name === "position" || name === "normal"
        ? new THREE.BufferAttribute(flat(from.getAttribute(name), 3), 3)
        : from.getAttribute(name),
    );
  own.setIndex(from.getIndex());
  const n = from.getAttribute("position").count;
  const flesh: Flesh = {
    positions: flat(from.getAttribute("position"), 3),
    normals: from.hasAttribute("normal") ? flat(from.getAttribute("normal"), 3) : null,
    targets: (part.morphs ?? []).map((_, k) => {
      const at = (name: "position" | "normal") => from.morphAttributes[name]?.[k];
      return {
        positions: at("position") ? flat(at("position")!, 3) : null,
        normals: at("normal") ? flat(at("normal")!, 3) : null,
      };
    }),
    joints: null,
    shares: null,
    frame: "",
  };
  if (part.skin && from.hasAttribute("skinIndex")) {
    flesh.joints = new Uint16Array(bonesOf * n);
    flesh.shares = new Float32Array(bonesOf * n);
    const used = new Uint8Array(n);
    for (const [index, weight] of [
      ["skinIndex", "skinWeight"],
      ["joints_1", "weights_1"],
    ] as const) {
      if (!from.hasAttribute(index) || !from.hasAttribute(weight)) continue;
      const joints = flat(from.getAttribute(index), 4);
      const shares = flat(from.getAttribute(weight), 4);
      for (let i = 0; i < n; i++)
        for (let k = 0; k < 4; k++)
          if (shares[4 * i + k]! > 0) {
            const at = bonesOf * i + used[i]!++;
            flesh.joints[at] = joints[4 * i + k]!;
            flesh.shares[at] = shares[4 * i + k]!;
          }
    }
  }
  mesh.geometry = own;
  mesh.userData.flesh = flesh;
  mesh.frustumCulled = false; // its bounds are those at rest
}

function flat(a: THREE.BufferAttribute | THREE.InterleavedBufferAttribute, width: number): Float32Array {
  const out = new Float32Array(width * a.count);
  for (let i = 0; i < a.count; i++) for (let k = 0; k < width; k++) out[width * i + k] = a.getComponent(i, k);
  return out;
}

/** Poses a mesh as it is on a frame. */
export function fleshTo(
  mesh: THREE.Mesh,
  part: Part,
  index: number,
  at: (id: string) => number,
  frame: number,
  b: Bake,
) {
  const flesh = mesh.userData.flesh as Flesh | undefined;
  if (!flesh) return;
  const bones = flesh.joints && part.skin ? palette(part, at, frame, b) : null;
  const weights = b.weights.get(index)?.(frame);
  const key = `${bones?.join() ?? ""};${weights?.join() ?? ""}`;
  if (flesh.frame === key) return;
  flesh.frame = key;
  const position = mesh.geometry.getAttribute("position") as THREE.BufferAttribute;
  const normal = mesh.geometry.getAttribute("normal") as THREE.BufferAttribute | undefined;
  move(flesh.positions, position.array as Float32Array, "positions", flesh, weights, bones, 1);
  position.needsUpdate = true;
  if (normal && flesh.normals) {
    move(flesh.normals, normal.array as Float32Array, "normals", flesh, weights, bones, 0);
    normal.needsUpdate = true;
  }
  mesh.geometry.boundingBox = mesh.geometry.boundingSphere = null; // whoever asks for them works them out anew
}

/** The matrices of a part's bones in its own frame: see Flesh in core/pose/flesh.go. */
function palette(part: Part, at: (id: string) => number, frame: number, b: Bake): Float32Array {
  const { joints, inverse, seat } = part.skin!;
  const back = new THREE.Matrix4().fromArray(seat);
  const up = at(part.parent);
  if (up >= 0) back.premultiply(new THREE.Matrix4().fromArray(matrixAt(b, up, frame)));
  back.invert();
  const out = new Float32Array(16 * joints.length);
  const m = new THREE.Matrix4();
  const bind = new THREE.Matrix4();
  joints.forEach((id, k) => {
    const j = at(id);
    if (j < 0) m.identity();
    else
      m.fromArray(matrixAt(b, j, frame))
        .premultiply(back)
        .multiply(bind.fromArray(inverse[k]!));
    out.set(m.elements, 16 * k);
  });
  return out;
}

function move(
  from: Float32Array,
  to: Float32Array,
  what: "positions" | "normals",
  flesh: Flesh,
  weights: Float32Array | undefined,
  bones: Float32Array | null,
  point: 0 | 1,
) {
  to.set(from);
  flesh.targets.forEach((t, k) => {
    const w = weights?.[k] ?? 0;
    const by = t[what];
    if (w !== 0 && by) for (let i = 0; i < to.length; i++) to[i]! += w * by[i]!;
  });
  if (!bones) return;
  const { joints, shares } = flesh;
  for (let i = 0; i < to.length / 3; i++) {
    const x = to[3 * i]!;
    const y = to[3 * i + 1]!;
    const z = to[3 * i + 2]!;
    let X = 0;
    let Y = 0;
    let Z = 0;
    let hangs = false;
    for (let k = bonesOf * i; k < bonesOf * i + bonesOf; k++) {
      const w = shares![k]!;
      const m = 16 * joints![k]!;
      if (w === 0 || m >= bones.length) break;
      hangs = true;
      X += w * (bones[m]! * x + bones[m + 4]! * y + bones[m + 8]! * z + point * bones[m + 12]!);
      Y += w * (bones[m + 1]! * x + bones[m + 5]! * y + bones[m + 9]! * z + point * bones[m + 13]!);
      Z += w * (bones[m + 2]! * x + bones[m + 6]! * y + bones[m + 10]! * z + point * bones[m + 14]!);
    }
    if (!hangs) continue;
    const long = point ? 1 : Math.hypot(X, Y, Z) || 1;
    to[3 * i] = X / long;
    to[3 * i + 1] = Y / long;
    to[3 * i + 2] = Z / long;
  }
}
