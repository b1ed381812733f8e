import * as THREE from "three";
import { RoundedBoxGeometry } from "three/addons/geometries/RoundedBoxGeometry.js";
import type { Cut, ShotReply } from "../api/types.gen";
import type { Cuts } from "./cuts";
import { inject } from "./cuts";
import { flexAlike } from "./flex";

/** A part as it stands in the scene: an object with its meshes, or with its copies. */
export interface Solid {
  id: string; // of the part whose meshes they are
  object: THREE.Object3D;
}

interface Cap {
  cutter: number; // its place among those that a view draws
  solid: Solid;
  counters: THREE.Group;
  face: THREE.Mesh;
  first: THREE.Mesh; // of the solid: what the face looks like
  own: boolean; // the cutter gives it a colour
}

/**
 * The faces of cuts. Whether a point of a cutter's far wall lies in a solid is found by counting, in the stencil buffer, the sides of it that
 * a ray meets behind that wall: one more that it goes out by than it goes in by, where it is inside. There the wall is drawn, in the
 * colour of the cut. This is capping as it is usual for clipped solids (from memory: McReynolds and Blythe, Advanced Graphics
 * Programming Using OpenGL, 2005), with the cutter in place of a plane.
 */
export class Caps {
  private list: Cap[] = [];
  private key = "";

  constructor(
    private scene: THREE.Scene,
    private cuts: Cuts,
  ) {}

  /** Takes over which solids are cut by what. Those that are not closed have no faces: nobody can say what is inside of them. */
  update({ document: shot, shown }: ShotReply, solids: Solid[]) {
    const wanted: [number, Solid][] = [];
    for (const s of solids) {
      const i = shot.parts.findIndex((p) => p.id === s.id);
      if (i < 0 || shown[i]!.open || s.object.children.length === 0) continue;
      this.cuts.of(shot, s.id).forEach((on, k) => on && wanted.push([k, s]));
    }
    const key = JSON.stringify([
      this.cuts.list.map((i) => shot.parts[i]!.cut),
      wanted.map(([k, s]) => [
        k,
        s.object.children.map((c) => [c.uuid, (c as THREE.Mesh).geometry.uuid, !!c.userData.flex]),
      ]),
    ]);
    if (key === this.key) return;
    this.clear();
    this.key = key;
    wanted.forEach(([k, solid], n) =>
      this.add(k, solid, shot.parts[this.cuts.list[k]!]!.cut!, 3 * (n - wanted.length)),
    );
  }

  private clear() {
    for (const c of this.list) {
      this.scene.remove(c.counters, c.face);
      c.face.geometry.dispose();
      for (const o of [c.face, ...(c.counters.children as THREE.Mesh[])])
        (o.material as THREE.Material).dispose();
    }
    this.list = [];
  }

  private add(k: number, solid: Solid, cut: Cut, order: number) {
    const uniforms = { ...this.cuts.uniforms, cutOn: { value: [0, 1, 2, 3].map((n) => (n === k ? 1 : 0)) } };
    const counters = new THREE.Group();
    counters.matrixAutoUpdate = false;
    counters.matrix = solid.object.matrix; // the same one
    const meshes = solid.object.children as THREE.Mesh[];
    meshes.forEach((m) => {
      [THREE.FrontSide, THREE.BackSide].forEach((side) => {
        const material = new THREE.MeshBasicMaterial({
          side,
          colorWrite: false,
          depthWrite: false,
          depthTest: false,
          stencilWrite: true,
          stencilFunc: THREE.AlwaysStencilFunc,
          stencilZPass: side === THREE.BackSide ? THREE.IncrementWrapStencilOp : THREE.DecrementWrapStencilOp,
        });
        flexAlike(material, m);
        inject(
          material,
          uniforms,
          ` behind ${k}`,
          `cutHolds(${k}, cutAt) || !cutCrossed(${k}, cutEye(cutAt), cutAt)`,
        );
        let c: THREE.Mesh = new THREE.Mesh(m.geometry, material);
        if (m instanceof THREE.InstancedMesh) {
          const many = new THREE.InstancedMesh(m.geometry, material, m.count);
          many.instanceMatrix = m.instanceMatrix;
          c = many;
        }
        c.frustumCulled = m.frustumCulled && !(m instanceof THREE.InstancedMesh);
        c.renderOrder = order + (side === THREE.BackSide ? 1 : 0);
        c.raycast = () => {};
        counters.add(c);
      });
    });
    const first = meshes[0]!;
    const of = first.material as THREE.MeshPhysicalMaterial;
    const material = new THREE.MeshStandardMaterial({
      side: THREE.BackSide,
      metalness: cut.color ? 0 : (of.metalness ?? 0),
      roughness: cut.color ? 0.8 : (of.roughness ?? 1),
      depthFunc: THREE.LessDepth, // of two that are there the first
      stencilWrite: true,
      stencilFunc: THREE.NotEqualStencilFunc,
      stencilRef: 0,
    });
    if (cut.color) material.color.setRGB(...cut.color);
    const others = { ...this.cuts.uniforms, cutOn: { value: [0, 1, 2, 3].map((n) => (n === k ? 0 : 1)) } };
    inject(material, others, " cap", "cutAway(cutAt)");
    const face = new THREE.Mesh(wall(cut), material);
    face.matrixAutoUpdate = false;
    face.renderOrder = order + 2;
    face.receiveShadow = first.receiveShadow;
    face.frustumCulled = false;
    face.raycast = () => {};
    face.onAfterRender = (renderer) => renderer.clearStencil();
    this.scene.add(counters, face);
    this.list.push({ cutter: k, solid, counters, face, first, own: !!cut.color });
  }

  /** Puts the faces where cutters are, and looks which of them can be there. */
  pose(worldOf: (part: number) => THREE.Matrix4 | undefined) {
    for (const c of this.list) {
      const m = worldOf(this.cuts.list[c.cutter] ?? -1);
      if (!m) continue;
      c.face.matrix.copy(m);
      c.face.matrixWorldNeedsUpdate = c.counters.matrixWorldNeedsUpdate = true;
      const seen = c.solid.object.visible && this.near(c, m);
      c.face.visible = c.counters.visible = seen;
      if (!seen) continue;
      const from = c.first.material as THREE.MeshPhysicalMaterial;
      const to = c.face.material as THREE.MeshStandardMaterial;
      if (!c.own) to.color.copy(from.color);
      const clear = from.transparent;
      if (to.transparent !== clear) {
        for (const o of [c.face, ...(c.counters.children as THREE.Mesh[])])
          (o.material as THREE.Material).transparent = clear;
      }
      to.opacity = from.opacity;
    }
  }

  /** Whether a cutter may come into a solid. */
  private near({ face, solid, first }: Cap, at: THREE.Matrix4): boolean {
    if (first instanceof THREE.InstancedMesh || first.userData.flex) return true;
    const own = new THREE.Box3();
    for (const m of solid.object.children as THREE.Mesh[]) {
      if (m.userData.flesh) return true;
      if (!m.geometry.boundingBox) m.geometry.computeBoundingBox();
      own.union(m.geometry.boundingBox!);
    }
    if (!face.geometry.boundingBox) face.geometry.computeBoundingBox();
    return own
      .applyMatrix4(solid.object.matrix)
      .intersectsBox(face.geometry.boundingBox!.clone().applyMatrix4(at));
  }

  /** Hides the faces of what is put away, for the bench, or shows them again. */
  putAway(on: boolean) {
    for (const c of this.list) {
      const away = on && !!c.solid.object.userData.away;
      for (const o of [c.face, ...c.counters.children]) o.layers.set(away ? 31 : 0);
    }
  }
}

const far = 1e4; // metres that a slab reaches

/** The wall of a cutter, about its own origin. */
function wall({ shape, size, radius = 0 }: Cut): THREE.BufferGeometry {
  switch (shape) {
    case "slab":
      return new THREE.BoxGeometry(far, size[1], far);
    case "cylinder":
      return new THREE.CylinderGeometry(radius, radius, size[1], 128);
    case "sphere":
      return new THREE.SphereGeometry(radius, 128, 64);
  }
  return radius > 0
    ? new RoundedBoxGeometry(size[0], size[1], size[2], 12, radius)
    : new THREE.BoxGeometry(size[0], size[1], size[2]);
}
