import * as THREE from "three";
import { create } from "zustand";
import { lengths } from "../fields/lengths";

/** Something that was measured in the bench: lines to draw, and what they come to. */
export interface Measured {
  words: string;
  lines: THREE.Vector3[][];
}

export const useMeasures = create<{
  kind: "distance" | "angle" | null;
  points: THREE.Vector3[];
  done: Measured[];
}>(() => ({ kind: null, points: [], done: [] }));

export const begin = (kind: "distance" | "angle" | null) => useMeasures.setState({ kind, points: [] });

export const add = (m: Measured) => useMeasures.setState((s) => ({ done: [m, ...s.done].slice(0, 20) }));

/** Takes a point that was picked; tells whether the measurement is complete. */
export function point(p: THREE.Vector3): boolean {
  const { kind, points } = useMeasures.getState();
  const all = [...points, p];
  const [a, b, c] = all;
  if (kind === "distance" && a && b) {
    const d = b.clone().sub(a);
    const along = d
      .toArray()
      .map((v, i) => `${"xyz"[i]} ${Number((v * 1000).toPrecision(4))}`)
      .join(", ");
    add({ words: `${lengths([d.length()])} apart (${along})`, lines: [[a, b]] });
    useMeasures.setState({ points: [] });
    return true;
  }
  if (kind === "angle" && a && b && c) {
    const angle = (a.clone().sub(b).angleTo(c.clone().sub(b)) * 180) / Math.PI;
    add({ words: `${Number(angle.toFixed(3))}° at the second point`, lines: [[a, b, c]] });
    useMeasures.setState({ points: [] });
    return true;
  }
  useMeasures.setState({ points: all });
  return false;
}

export function diameter(centre: THREE.Vector3, axis: THREE.Vector3, radius: number) {
  const u = new THREE.Vector3(axis.y, axis.z, axis.x).cross(axis).normalize();
  const v = u.clone().cross(axis);
  const ring = Array.from({ length: 49 }, (_, i) => {
    const t = (i / 48) * 2 * Math.PI;
    return centre
      .clone()
      .addScaledVector(u, radius * Math.cos(t))
      .addScaledVector(v, radius * Math.sin(t));
  });
  add({ words: `⌀ ${lengths([2 * radius])}`, lines: [ring] });
}

export const thickness = (a: THREE.Vector3, b: THREE.Vector3) =>
  add({ words: `${lengths([a.distanceTo(b)])} thick`, lines: [[a, b]] });
