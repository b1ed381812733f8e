import type { Curve, Pin, Track } from "../api/types.gen";

const near = 1e-6;

export const pinAt = (t: Track | undefined, time: number): Pin | undefined =>
  t?.pins.find((p) => Math.abs(p.time - time) < near);

export const curveOf = (list: Curve[], move: string | undefined, value: string) =>
  list.find((c) => (c.move ?? "") === (move ?? "") && c.value === value);

/** What a sampled curve is at a time; between samples on the straight line. */
export function at(list: number[], step: number, time: number): number {
  const x = Math.min(list.length - 1, Math.max(0, time / step));
  const i = Math.floor(x);
  const a = list[i] ?? 0;
  return a + ((list[i + 1] ?? a) - a) * (x - i);
}

export const valueAt = (c: Curve | undefined, time: number) => (c ? at(c.values, c.step, time) : undefined);
