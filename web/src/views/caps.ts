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
  faces: THREE.Group; // the cutter's wall
  first: THREE.Mesh; // of the solid: what the face looks like
  own: boolean; // the cutter gives it a colour
  wall: THREE.BufferGeometry | null; // that was made for it
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
  update(
    { document: shot, shown }: ShotReply,
    solids: Solid[],
    partOf: (id: string) => THREE.Object3D | undefined,
  ) {
    const wanted: [number, Solid, number][] = []; // which cutter, and where rays go out of it for the n-th time
    for (const s of solids) {
      const i = shot.parts.findIndex((p) => p.id === s.id);
      if (i < 0 || shown[i]!.open || s.object.children.length === 0) continue;
      this.cuts.of(shot, s.id).forEach((on, k) => {
        if (!on) return;
        const shape = shot.parts[this.cuts.list[k]!]!.cut!.shape;
        for (let n = 0; n < (shape === "part" ? 2 : 1); n++) wanted.push([k, s, n]);
      });
    }
    const walls = this.cuts.list.map((i) => {
      const { shape, of } = shot.parts[i]!.cut!;
      return shape === "part" ? (partOf(of!)?.children ?? []) : null;
    });
    const key = JSON.stringify([
      this.cuts.list.map((i) => shot.parts[i]!.cut),
      walls.map((w) => w?.map((m) => m.uuid)),
      wanted.map(([k, s]) => [
        k,
        s.object.children.map((c) => [c.uuid, (c as THREE.Mesh).geometry.uuid, !!c.userData.flex]),
      ]),
    ]);
    if (key === this.key) return;
    this.clear();
    this.key = key;
    wanted.forEach(([k, solid, n], at) => {
      const cut = shot.parts[this.cuts.list[k]!]!.cut!;
      const others = this.cuts.of(shot, solid.id).map((on, i) => (i === k ? 0 : on));
      const shapes = walls[k] ? walls[k].map((m) => (m as THREE.Mesh).geometry) : [wall(cut)];
      this.add(k, solid, cut, n, others, shapes, 3 * (at - wanted.length));
    });
  }

  private clear() {
    for (const c of this.list) {
      this.scene.remove(c.counters, c.faces);
      for (const o of parts(c)) o.material.dispose();
      c.wall?.dispose();
    }
    this.list = [];
  }

  private add(
    k: number,
    solid: Solid,
    cut: Cut,
    exit: number,
    others: number[],
    shapes: THREE.BufferGeometry[],
    order: number,
  ) {
    const part = cut.shape === "part";
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
          ` behind ${k} ${part ? exit : ""}`,
          part
            ? `gl_FragCoord.z <= cutExit(${k}, ${exit})`
            : `cutHolds(${k}, cutAt) || !cutBehind(${k}, cutAt)`,
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
    inject(
      material,
      { ...this.cuts.uniforms, cutOn: { value: others } },
      ` cap ${part ? `${k} ${exit}` : ""}`,
      "cutAway(cutAt)" + (part ? ` || abs(gl_FragCoord.z - cutExit(${k}, ${exit})) > 2e-6` : ""),
    );
    const faces = new THREE.Group();
    faces.matrixAutoUpdate = false;
    for (const shape of shapes) {
      const face = new THREE.Mesh(shape, material);
      face.renderOrder = order + 2;
      face.receiveShadow = first.receiveShadow;
      face.frustumCulled = false;
      face.raycast = () => {};
      faces.add(face);
    }
    const last = faces.children.at(-1);
    if (last) last.onAfterRender = (renderer) => renderer.clearStencil();
    this.scene.add(counters, faces);
    this.list.push({
      cutter: k,
      solid,
      counters,
      faces,
      first,
      own: !!cut.color,
      wall: part ? null : shapes[0]!,
    });
  }

  /** Puts the faces where cutters are, and looks which of them can be there. */
  pose(worldOf: (part: number) => THREE.Matrix4 | undefined) {
    for (const c of this.list) {
      const m = worldOf(this.cuts.list[c.cutter] ?? -1);
      if (!m) continue;
      c.faces.matrix.copy(m);
      c.faces.matrixWorldNeedsUpdate = c.counters.matrixWorldNeedsUpdate = true;
      const seen = c.solid.object.visible && this.near(c, m);
      c.faces.visible = c.counters.visible = seen;
      if (!seen) continue;
      const from = c.first.material as THREE.MeshPhysicalMaterial;
      for (const o of parts(c)) {
        o.material.transparent = from.transparent; // all of them, so that they stay one after another
        if (o.material instanceof THREE.MeshStandardMaterial) {
          if (!c.own) o.material.color.copy(from.color);
          o.material.opacity = from.opacity;
        }
      }
    }
  }

  /** Whether a cutter may come into a solid. */
  private near({ faces, solid, first }: Cap, at: THREE.Matrix4): boolean {
    if (first instanceof THREE.InstancedMesh || first.userData.flex) return true;
    const own = new THREE.Box3();
    for (const m of solid.object.children as THREE.Mesh[]) {
      if (m.userData.flesh) return true;
      if (!m.geometry.boundingBox) m.geometry.computeBoundingBox();
      own.union(m.geometry.boundingBox!);
    }
    const cutter = new THREE.Box3();
    for (const m of faces.children as THREE.Mesh[]) {
      if (!m.geometry.boundingBox) m.geometry.computeBoundingBox();
      cutter.union(m.geometry.boundingBox!);
    }
    return own.applyMatrix4(solid.object.matrix).intersectsBox(cutter.applyMatrix4(at));
  }

  /** Hides the faces of what is put away, for the bench, or shows them again. */
  putAway(on: boolean) {
    for (const c of this.list) {
      const away = on && !!c.solid.object.userData.away;
      for (const o of parts(c)) o.layers.set(away ? 31 : 0);
    }
  }
}

/** All meshes of a cap. */
const parts = (c: Cap) =>
  [...c.counters.children, ...c.faces.children] as THREE.Mesh<THREE.BufferGeometry, THREE.Material>[];

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
