import * as THREE from "three";
import type { ShotReply } from "../api/types.gen";
import { pickedFrom } from "./pick";
import type { Stage } from "./stage";

/** Handles that are being dragged. */
export interface Drag {
  axis: number; // 0 to 2, or 3 for free
  from: THREE.Vector2; // pointer
  pivot: THREE.Vector3;
  axes: [THREE.Vector3, THREE.Vector3, THREE.Vector3];
  pixel: number;
  centre: THREE.Vector2;
  move: THREE.Vector3;
  turn: THREE.Quaternion;
  size: number;
  along: boolean; // the axis alone, which is the part's own
}

/** The parts that are chosen, with all in them. */
export function inside(shot: ShotReply, chosen: string[]): string[] {
  const set = new Set(chosen);
  for (const p of shot.document.parts) if (set.has(p.parent)) set.add(p.id);
  return [...set];
}

export const rounded = (v: number, step: number) => Math.round(v / step) * step;

/** A round number of metres near v: 1, 2 or 5 times a power of ten. */
export function roundStep(v: number): number {
  const p = Math.pow(10, Math.floor(Math.log10(v)));
  return [1, 2, 5, 10].map((k) => k * p).find((s) => s >= v) ?? p;
}

export function turnBetween(a: THREE.Vector2, b: THREE.Vector2): number {
  return Math.atan2(a.x * b.y - a.y * b.x, a.dot(b));
}

const one = new THREE.Vector3(1, 1, 1);

export function matrixOf(d: Drag): THREE.Matrix4 {
  const m = new THREE.Matrix4().compose(
    d.pivot.clone().add(d.move),
    d.turn,
    d.along ? one : new THREE.Vector3(d.size, d.size, d.size),
  );
  const own = new THREE.Matrix4().makeBasis(...d.axes);
  if (d.along)
    m.multiply(own).scale(one.clone().setComponent(d.axis, d.size)).multiply(own.clone().transpose());
  return m.multiply(new THREE.Matrix4().makeTranslation(d.pivot.clone().negate()));
}

/** Where a free drag snaps to: on other parts, or the floor. */
export function snapped(
  pointer: THREE.Vector2,
  r: DOMRect,
  stage: Stage,
  eye: THREE.PerspectiveCamera,
  snap: string,
  own: Set<string>,
): THREE.Vector3 | null {
  const at = new THREE.Vector2(
    ((pointer.x - r.left) / r.width) * 2 - 1,
    1 - ((pointer.y - r.top) / r.height) * 2,
  );
  const ray = new THREE.Raycaster();
  ray.setFromCamera(at, eye);
  if (snap === "floor")
    return ray.ray.intersectPlane(new THREE.Plane(new THREE.Vector3(0, 1, 0), 0), new THREE.Vector3());
  if (snap !== "vertices" && snap !== "edges" && snap !== "faces") return null;
  const hit = ray
    .intersectObjects(stage.objects(), true)
    .find((h) => !own.has(h.object.userData.part as string));
  if (!hit) return null;
  const p = pickedFrom(hit, eye, r);
  return snap === "vertices" ? p.vertex : snap === "edges" ? p.edge : p.point;
}
