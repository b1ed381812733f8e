import type { Edit, Shot } from "../api/types.gen";
import { follows, still, useChosen } from "../state/chosen";

/** A frame near a place in the score: that of something that is there, else the nearest whole one. */
export function snap(frame: number, others: number[], per: number, free: boolean): number {
  if (free) return Math.round(frame * 100) / 100;
  const reach = 5 / per;
  let best = Math.round(frame);
  let off = Math.abs(best - frame) + 0.25 / per;
  for (const o of others) {
    const d = Math.abs(o - frame);
    if (d < reach && d < off) [best, off] = [o, d];
  }
  return best;
}

/** Follows a pointer from its press until it is let go. */
export function follow(
  e: React.PointerEvent,
  move: (dx: number, dy: number, e: PointerEvent) => void,
  end: (moved: boolean, e: PointerEvent) => void,
) {
  const el = e.currentTarget as HTMLElement;
  const [x, y] = [e.clientX, e.clientY];
  let moved = false;
  el.setPointerCapture(e.pointerId);
  const on = (p: PointerEvent) => {
    moved ||= Math.hypot(p.clientX - x, p.clientY - y) > 3;
    if (moved) move(p.clientX - x, p.clientY - y, p);
  };
  const up = (p: PointerEvent) => {
    el.removeEventListener("pointermove", on);
    el.removeEventListener("pointerup", up);
    el.removeEventListener("pointercancel", up);
    end(moved, p);
  };
  el.addEventListener("pointermove", on);
  el.addEventListener("pointerup", up);
  el.addEventListener("pointercancel", up);
}

/** Drags all that is chosen in the score along; with Ctrl, copies of it. */
export function dragChosen(
  e: React.PointerEvent,
  anchor: number,
  p: { per: number; edges: number[] },
  shot: Shot,
  edit: (...list: Edit[]) => Promise<boolean>,
  clicked: () => void,
) {
  follow(
    e,
    (dx, _, ev) => useChosen.setState({ by: snap(anchor + dx / p.per, p.edges, p.per, ev.altKey) - anchor }),
    (moved, ev) => {
      const { pins, bars, by, ripple } = useChosen.getState();
      if (!moved) return clicked();
      if (by === 0) return;
      const copy = ev.ctrlKey || ev.metaKey;
      void edit({ movePins: { pins, bars: copy ? [] : bars, by, scale: 1, about: 0, copy, ripple } }).then(
        (ok) => (ok ? follows(shot) : useChosen.setState(still)),
      );
    },
  );
}
