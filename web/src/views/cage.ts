import { create } from "zustand";

type Triple = [number, number, number];

/** A cage as its move says it: metres along the part's own axes; x runs fastest, then y. */
export interface CageNow {
  n: Triple;
  low: Triple;
  size: Triple;
  points: Triple[];
}

/** The points of a cage that are chosen, by their numbers. */
export const useCagePoints = create<{ move: string; chosen: number[] }>(() => ({ move: "", chosen: [] }));

export function choosePoints(move: string, chosen: number[]) {
  useCagePoints.setState({ move, chosen });
}

/** Which point, each way, one is by its number. */
export const latticeOf = (n: Triple, k: number): Triple => [
  k % n[0],
  Math.floor(k / n[0]) % n[1],
  Math.floor(k / n[0] / n[1]),
];

export const numberOf = (n: Triple, [x, y, z]: Triple) => x + n[0] * (y + n[1] * z);

/** What is set when a point goes somewhere: itself, and its counterpart over the side that is mirrored. */
export function moved(cage: CageNow, mirror: string, k: number, to: Triple): Record<string, number> {
  const out: Record<string, number> = {};
  const put = (i: number, v: Triple) => v.forEach((x, c) => (out[`point ${i} ${"xyz"[c]}`] = x));
  const axis = "xyz".indexOf(mirror);
  if (axis >= 0) {
    const at = latticeOf(cage.n, k);
    at[axis] = cage.n[axis]! - 1 - at[axis]!;
    const other = numberOf(cage.n, at);
    const over = to.map((v, c) => (c === axis ? -v : v)) as Triple;
    if (other === k)
      to = to.map((v, c) => (c === axis ? 0 : v)) as Triple; // it stays in the middle
    else put(other, over);
  }
  put(k, to);
  return out;
}
