import { useEffect } from "react";
import * as THREE from "three";
import type { ShotReply } from "../api/types.gen";
import { signal } from "../state/signals";
import { useUi } from "../state/ui";

/** What a click in the bench met, in the room. */
export interface Picked {
  part: string;
  mesh: number; // of the part's meshes
  triangle: number;
  point: THREE.Vector3; // where the face was met
  normal: THREE.Vector3; // of the face
  smooth: THREE.Vector3; // as it is shaded there
  vertex: THREE.Vector3; // the corner of the face that is nearest on the screen
  edge: THREE.Vector3; // the middle of the nearest edge
  face: THREE.Vector3; // the middle of the face
  nearest: THREE.Vector3; // a corner or edge middle within reach, else the middle of the face
}

const reach = 12; // pixels

/** The ray through a point of a view, from -1 to 1: also of shifted lenses and orthographic cameras. */
export function rayThrough(x: number, y: number, eye: THREE.Camera): THREE.Raycaster {
  const from = new THREE.Vector3(x, y, -1).unproject(eye);
  const to = new THREE.Vector3(x, y, 1).unproject(eye);
  return new THREE.Raycaster(from, to.sub(from).normalize());
}

export function pickedFrom(hit: THREE.Intersection, eye: THREE.Camera, r: DOMRect): Picked {
  const mesh = hit.object as THREE.Mesh;
  const world = mesh.matrixWorld.clone();
  if (mesh instanceof THREE.InstancedMesh && hit.instanceId !== undefined) {
    const m = new THREE.Matrix4();
    mesh.getMatrixAt(hit.instanceId, m);
    world.multiply(m);
  }
  const at = mesh.geometry.getAttribute("position");
  const f = hit.face!;
  const corners = [f.a, f.b, f.c].map((i) =>
    new THREE.Vector3().fromBufferAttribute(at, i).applyMatrix4(world),
  );
  const middles = corners.map((c, i) => c.clone().lerp(corners[(i + 1) % 3]!, 0.5));
  const screen = (v: THREE.Vector3) => {
    const p = v.clone().project(eye);
    return new THREE.Vector2(((p.x + 1) / 2) * r.width, ((1 - p.y) / 2) * r.height);
  };
  const mouse = screen(hit.point);
  const near = (list: THREE.Vector3[]) =>
    list.reduce((a, b) => (screen(a).distanceTo(mouse) <= screen(b).distanceTo(mouse) ? a : b));
  const vertex = near(corners);
  const edge = near(middles);
  const face = corners[0]!.clone().add(corners[1]!).add(corners[2]!).divideScalar(3);
  const nearest = [vertex, edge].find((v) => screen(v).distanceTo(mouse) < reach) ?? hit.point.clone();
  const normal = new THREE.Vector3()
    .subVectors(corners[1]!, corners[0]!)
    .cross(new THREE.Vector3().subVectors(corners[2]!, corners[0]!))
    .normalize();
  return {
    part: mesh.userData.part as string,
    mesh: mesh.parent!.children.indexOf(mesh),
    triangle: hit.faceIndex ?? 0,
    point: hit.point.clone(),
    normal,
    smooth: hit.normal
      ? hit.normal.clone().applyNormalMatrix(new THREE.Matrix3().getNormalMatrix(world)).normalize()
      : normal,
    vertex,
    edge,
    face,
    nearest,
  };
}

/** Tells what a click in the bench or the picture met. */
export const picked = signal<Picked>();

/** Calls back with what the next click in the bench picks. */
export function usePicked(kind: ReturnType<typeof useUi.getState>["picking"], then: (p: Picked) => void) {
  const picking = useUi((s) => s.picking);
  useEffect(() => {
    if (picking === null || picking !== kind) return;
    return picked.hear(then);
  });
}

/** The part to select next on the way from the outermost group down to the part that was clicked. */
export function deeper(shot: ShotReply, part: string, selected: string | null): string {
  const byId = new Map(shot.document.parts.map((p) => [p.id, p]));
  const chain: string[] = [];
  for (let p = byId.get(part); p; p = byId.get(p.parent)) chain.unshift(p.id);
  const tables = new Set(shot.document.parts.filter((_, i) => shot.shown[i]?.table).map((p) => p.id));
  const start = Math.max(
    0,
    chain.findIndex((id) => !tables.has(id)),
  ); // the turntable itself is picked in the tree
  const at = selected === null ? -1 : chain.indexOf(selected);
  return chain[at >= start && at + 1 < chain.length ? at + 1 : Math.min(start, chain.length - 1)]!;
}
