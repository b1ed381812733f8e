import { create } from "zustand";
import type { PinRef, Shot } from "../api/types.gen";

interface Chosen {
  pins: PinRef[];
  bars: string[]; // moves
  by: number; // frames that they are dragged by, just now
  scale: number; // and what they are scaled by, about a time
  about: number;
  last: "score" | "part"; // which was touched last, what is chosen here or a part
  ripple: boolean; // what comes later goes along
  speed: boolean; // curves show how fast values change rather than the values
}

/** What is chosen in the score: pins and bars. */
export const useChosen = create<Chosen>(() => ({
  pins: [],
  bars: [],
  by: 0,
  scale: 1,
  about: 0,
  last: "part",
  ripple: false,
  speed: false,
}));

useChosen.subscribe((s, before) => {
  const other = s.pins !== before.pins || s.bars !== before.bars;
  if (other && s.pins.length + s.bars.length > 0 && s.last !== "score") useChosen.setState({ last: "score" });
});

/** A part was touched: what is removed next is meant to be that. */
export const partTouched = () => useChosen.setState({ last: "part" });

export const sameLane = (a: PinRef, part: string, move: string | undefined) =>
  a.part === part && (a.move ?? "") === (move ?? "");

export const samePin = (a: PinRef, b: PinRef) =>
  sameLane(a, b.part, b.move) && a.value === b.value && Math.abs(a.time - b.time) < 1e-6;

export const still = { by: 0, scale: 1, about: 0 };

export const clearChosen = () => useChosen.setState({ pins: [], bars: [], ...still });

/** Where a time goes while what is chosen is dragged. */
export const dragged = (c: Chosen, t: number) => c.about + (t - c.about) * c.scale + c.by;

/** The first and last time of what is chosen. */
export function reachOf(c: Chosen, shot: Shot): [number, number] | null {
  const times = c.pins.map((p) => p.time);
  for (const p of shot.parts)
    for (const m of p.moves) if (m.span && c.bars.includes(m.id)) times.push(m.span.from, m.span.to);
  return times.length ? [Math.min(...times), Math.max(...times)] : null;
}

/** What is chosen after it has been moved: the same pins at their new times. */
export function follows(shot: Shot) {
  const c = useChosen.getState();
  const n = shot.frames;
  const to = (t: number) => {
    const v = dragged(c, t);
    return shot.ending === "loop" && (v < 0 || v > n) ? v - n * Math.floor(v / n) : v;
  };
  useChosen.setState({ pins: c.pins.map((p) => ({ ...p, time: to(p.time) })), ...still });
}
