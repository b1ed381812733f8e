import { memo, useState } from "react";
import { useEdits } from "../api/queries";
import { setMove } from "../api/edits";
import type { Move, MoveReply, Part, Shot, Span } from "../api/types.gen";
import { dragged, useChosen } from "../state/chosen";
import { goTo, select } from "../state/ui";
import { dragChosen, follow, snap } from "./drag";

const lane = 27;
const grip = 7; // pixels at the ends that stretch

/** The bar of a move: dragged along, stretched at its ends; in a loop it goes over the seam. */
export const Bar = memo(function Bar(p: {
  shot: Shot;
  part: Part;
  move: Move;
  told?: MoveReply; // what the core says of it
  frames: number;
  loop: boolean;
  x: (f: number) => number;
  per: number;
  width: number;
  edges: number[];
}) {
  const { edit } = useEdits();
  const [draft, setDraft] = useState<Span | null>(null); // while it is dragged
  const { frames, loop, x } = p;
  const chosen = useChosen();
  const lit = chosen.bars.includes(p.move.id);
  const m = p.move;
  const words = p.told?.bar.words ?? m.kind;
  const curve = p.told?.bar.curve ?? [0, 1];
  const moved =
    draft ?? (lit && m.span ? order(dragged(chosen, m.span.from), dragged(chosen, m.span.to)) : null);
  const base: [number, number][] = moved ? [[moved.from, moved.to]] : (p.told?.bar.spans ?? []);
  const all = (loop ? [-1, 0, 1] : [0]).flatMap((lap) =>
    base.map(([from, to], i) => ({
      from: from + lap * frames,
      to: to + lap * frames,
      lap,
      first: lap === 0 && i === 0,
    })),
  );
  const colour = m.muted ? "var(--quiet)" : (p.told?.closes ?? true) ? "var(--brass)" : "var(--coral)";
  const fixed = p.told?.bar.fixed ?? true; // no span to drag

  const press = (e: React.PointerEvent<HTMLButtonElement>) => {
    if (e.button !== 0 || fixed) return;
    if (e.shiftKey && p.move.span) {
      const bars = lit ? chosen.bars.filter((b) => b !== p.move.id) : [...chosen.bars, p.move.id];
      return useChosen.setState({ bars });
    }
    const r = e.currentTarget.getBoundingClientRect();
    const left = e.clientX - r.left < grip;
    const right = r.right - e.clientX < grip;
    const s: Span = p.move.span ?? { from: 0, to: frames };
    if (!p.move.span && !left && !right) return; // the whole loop has nowhere to go
    if (lit && !left && !right && chosen.bars.length + chosen.pins.length > 1)
      return dragChosen(e, s.from, p, p.shot, edit, () => useChosen.setState({ pins: [], bars: [] }));
    let now = s;
    follow(
      e,
      (dx, _, ev) => {
        const by = dx / p.per;
        const to = (f: number) => snap(f, p.edges, p.per, ev.altKey);
        if (left) now = { from: Math.min(to(s.from + by), s.to - 0.5), to: s.to };
        else if (right) now = { from: s.from, to: Math.max(to(s.to + by), s.from + 0.5) };
        else {
          const from = to(s.from + by);
          now = { from, to: from + s.to - s.from };
        }
        setDraft(now);
      },
      (moved) => {
        if (!moved) return setDraft(null);
        const lap = loop ? Math.floor(now.from / frames) * frames : 0; // it begins within the loop
        const span = { from: now.from - lap, to: now.to - lap };
        void edit(setMove(p.move.id, { span })).then(() => setDraft(null));
      },
    );
  };
  return (
    <div className="relative" style={{ height: lane }}>
      {all.map((s, i) => {
        const left = x(s.from);
        const w = x(s.to) - left;
        if (left > p.width || left + w < 0) return null;
        const points = curve
          .map((v, k) => `${((k / (curve.length - 1)) * w).toFixed(1)},${(19 - 16 * v).toFixed(1)}`)
          .join(" ");
        const first = s.first;
        return (
          <button
            key={i}
            type="button"
            tabIndex={first ? 0 : -1}
            aria-label={first ? words : undefined}
            aria-hidden={!first}
            title={draft ? `${draft.from} to ${draft.to}` : words}
            onPointerDown={press}
            onClick={(e) => {
              if (e.shiftKey) return;
              select(p.part.id);
              goTo("Move");
            }}
            className={`absolute top-[3px] h-[21px] touch-none overflow-hidden rounded-[3px] border text-left ${fixed ? "" : "cursor-grab"}`}
            style={{
              outline: lit ? "1.5px solid var(--ink)" : undefined,
              left,
              width: Math.max(2, w),
              borderColor: colour,
              background: `color-mix(in srgb, ${colour} 17%, transparent)`,
              opacity: s.lap === 0 ? (m.muted ? 0.5 : 1) : 0.4,
            }}
          >
            <svg width={w} height={21} className="absolute inset-0" aria-hidden>
              <polyline points={points} fill="none" stroke={colour} strokeOpacity={0.75} />
            </svg>
            {!fixed && first && (
              <>
                <span className="absolute inset-y-0 left-0 w-[7px] cursor-ew-resize" />
                <span className="absolute inset-y-0 right-0 w-[7px] cursor-ew-resize" />
              </>
            )}
            {first && (
              <span className="pointer-events-none relative truncate px-2 text-[11px] whitespace-nowrap">
                {draft ? `${draft.from} to ${draft.to} f` : words}
              </span>
            )}
          </button>
        );
      })}
    </div>
  );
});

const order = (a: number, b: number): Span => ({ from: Math.min(a, b), to: Math.max(a, b) });
