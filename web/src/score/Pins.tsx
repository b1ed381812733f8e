import { memo, useMemo, useState } from "react";
import { useCurves, useEdits } from "../api/queries";
import type { Edit, Move, Part, Pin, PinRef, ShotReply, Track } from "../api/types.gen";
import { dragged, sameLane, samePin, useChosen } from "../state/chosen";
import { clock } from "../state/clock";
import { goTo, select } from "../state/ui";
import { dragChosen, follow, snap } from "./drag";
import { at, curveOf } from "./curves";

interface Lane {
  shot: ShotReply;
  part: Part;
  move?: Move; // whose parameters carry the pins; otherwise they are the part's own
  frames: number;
  loop: boolean;
  x: (f: number) => number;
  per: number;
  width: number;
  height: number;
  edges: number[];
}

const tracksOf = (p: Lane): Track[] => (p.move ? p.move.pins : p.part.tracks) ?? [];
const nameOf = (p: Lane) => (p.move ? `${p.move.kind} of ${p.part.name}` : p.part.name);

const refOf = (p: Lane, value: string, time: number): PinRef => ({
  part: p.part.id,
  ...(p.move ? { move: p.move.id } : {}),
  value,
  time,
});

/** Chooses pins, or with Shift takes them into what is chosen or out of it. */
function choosePins(pins: PinRef[], add: boolean) {
  useChosen.setState((c) => {
    if (!add) return { pins, bars: [] };
    const has = pins.every((a) => c.pins.some((b) => samePin(a, b)));
    const others = c.pins.filter((a) => !pins.some((b) => samePin(a, b)));
    return { pins: has ? others : [...others, ...pins] };
  });
}

const visit = (p: Lane, time: number) => {
  clock.play(0);
  clock.seek(Math.round(time));
  select(p.part.id);
  goTo("Move");
};

/** The pins of a part, each standing on its lane; all that stand on one time are dragged together. */
export const PinLane = memo(function PinLane(p: Lane) {
  const { edit } = useEdits();
  const chosen = useChosen();
  const tracks = tracksOf(p);
  const mine = useMemo(
    () => chosen.pins.filter((c) => sameLane(c, p.part.id, p.move?.id)),
    [chosen.pins, p.part.id, p.move?.id],
  );
  const times = useMemo(() => [...new Set(tracks.flatMap((t) => t.pins.map((pin) => pin.time)))], [tracks]);
  const heads = useMemo(() => {
    let last = -10;
    const laps = p.loop ? [-1, 0, 1] : [0];
    return laps
      .flatMap((lap) => {
        const lo = p.x(lap * p.frames); // only what is in sight
        return times
          .filter((t) => lo + t * p.per > -6 && lo + t * p.per < p.width + 6)
          .map((t) => ({ time: t, lap }));
      })
      .sort((a, b) => a.time + a.lap * p.frames - b.time - b.lap * p.frames)
      .filter((h) => {
        const at = p.x(h.time + h.lap * p.frames);
        if (at - last < 2.5) return false; // no more than can be told apart
        last = at;
        return true;
      });
  }, [times, p]);
  const on = (time: number) => mine.some((c) => Math.abs(c.time - time) < 1e-6);
  const press = (time: number) => (e: React.PointerEvent) => {
    if (e.button !== 0) return;
    const here = tracks
      .filter((t) => t.pins.some((q) => q.time === time))
      .map((t) => refOf(p, t.value, time));
    if (e.shiftKey) return choosePins(here, true);
    const had = on(time);
    if (!had) choosePins(here, false);
    dragChosen(e, time, p, p.shot.document, edit, () => {
      choosePins(here, false);
      visit(p, time);
    });
  };
  const lit = (time: number) => mine.length > 0 && on(time);
  const place = (h: { time: number; lap: number }) =>
    p.x((lit(h.time) ? dragged(chosen, h.time) : h.time) + h.lap * p.frames);
  // Few elements for many pins: those that look alike are one path.
  const drawn = [false, true].flatMap((faint) =>
    [false, true].map((chosen) => {
      const list = heads.filter((h) => (h.lap !== 0) === faint && lit(h.time) === chosen).map(place);
      const r = chosen ? 4.5 : 3.5;
      return {
        name: `${faint} ${chosen}`,
        faint,
        lit: chosen,
        stems: list.map((x) => `M${x.toFixed(1)} 11V22`).join(""),
        heads: list
          .map((x) => `M${(x - r).toFixed(1)} 9a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`)
          .join(""),
      };
    }),
  );
  return (
    <svg
      width={p.width}
      height={p.height}
      className="block"
      role="img"
      aria-label={`Pins of ${nameOf(p)}: ${times.length}`}
    >
      <line x1={0} x2={p.width} y1={22.5} y2={22.5} stroke="var(--line)" />
      {drawn.map((g) => (
        <g key={g.name} opacity={g.faint ? 0.4 : 1} stroke="var(--heather)" pointerEvents="none">
          <path d={g.stems} />
          <path d={g.heads} fill="var(--heather)" stroke={g.lit ? "var(--ink)" : "none"} strokeWidth={1.5} />
        </g>
      ))}
      {heads
        .filter((h) => h.lap === 0)
        .map((h) => (
          <rect
            key={h.time}
            x={place(h) - 5}
            y={2}
            width={10}
            height={22}
            fill="transparent"
            className="cursor-grab touch-none"
            data-pin={h.time}
            onPointerDown={press(h.time)}
          />
        ))}
    </svg>
  );
});

const shades = [
  "var(--heather)",
  "var(--brass)",
  "var(--verdigris)",
  "var(--fern)",
  "var(--coral)",
  "var(--ink)",
];

/** A pin or a handle while it is dragged, and the edit that it ends in. */
interface Draft {
  value: string;
  time: number; // of the pin where it stood
  pin: Pin; // as it is drawn meanwhile
  edit: Edit;
}

/**
 * The curves of tracks in their lane, each over its own range; pins are dragged in time and value, handles of
 * curves of their own with them. Seen as speeds, the curves show the change in a frame.
 */
export function CurveLane(p: Lane) {
  const { edit } = useEdits();
  const chosen = useChosen();
  const [draft, setDraft] = useState<Draft | null>(null);
  const curves = useCurves(p.shot, p.part.id);
  const mine = chosen.pins.filter((c) => sameLane(c, p.part.id, p.move?.id));
  const moving = chosen.by !== 0 || chosen.scale !== 1;
  const tracks = tracksOf(p).filter((t) => t.value !== "orientation");
  /** The pin as it is drawn: where it is dragged to, or where what is chosen goes. */
  const drawn = (value: string, q: Pin): Pin => {
    if (draft) return draft.value === value && draft.time === q.time ? draft.pin : q;
    return moving && mine.some((c) => samePin(c, refOf(p, value, q.time)))
      ? { ...q, time: dragged(chosen, q.time) }
      : q;
  };
  const pad = 10;
  const step = 3;
  const save = (e: Edit) => void edit(e).then(() => setDraft(null));
  return (
    <svg
      width={p.width}
      height={p.height}
      className="block bg-ground/40"
      role="img"
      aria-label={`Curves of ${nameOf(p)}`}
    >
      <line x1={0} x2={p.width} y1={p.height - 0.5} y2={p.height - 0.5} stroke="var(--line)" />
      {tracks.map((t, k) => {
        const curve = curveOf(curves, p.move?.id, t.value);
        const list = (chosen.speed ? curve?.speeds : curve?.values) ?? [];
        const shown: [number, number][] = [];
        for (let px = 0; px <= p.width && curve; px += step) {
          const f = (px - p.x(0)) / p.per;
          shown.push([px, at(list, curve.step, p.loop ? ((f % p.frames) + p.frames) % p.frames : f)]);
        }
        const reach = chosen.speed
          ? list
          : t.pins.flatMap((q) => {
              const v = q.value ?? 0;
              return [v, v + (q.in?.value ?? 0), v + (q.out?.value ?? 0)];
            });
        let lo = Infinity;
        let hi = -Infinity;
        for (const v of reach) [lo, hi] = [Math.min(lo, v), Math.max(hi, v)];
        if (hi - lo < 1e-12) [lo, hi] = [lo - 0.5e-3, hi + 0.5e-3];
        const tall = p.height - 2 * pad;
        const y = (v: number) => p.height - pad - ((v - lo) / (hi - lo)) * tall;
        const colour = shades[k % shades.length]!;
        const ghost = draft?.value === t.value || (moving && mine.some((c) => c.value === t.value));
        return (
          <g key={t.value}>
            <polyline
              points={shown.map(([px, v]) => `${px},${y(v).toFixed(1)}`).join(" ")}
              fill="none"
              stroke={colour}
              strokeWidth={1.3}
              strokeOpacity={0.85}
            />
            {ghost && (
              <polyline
                points={t.pins
                  .map((q) => drawn(t.value, q))
                  .sort((a, b) => a.time - b.time)
                  .map((q) => `${p.x(q.time).toFixed(1)},${y(q.value ?? 0).toFixed(1)}`)
                  .join(" ")}
                fill="none"
                stroke={colour}
                strokeDasharray="3 3"
              />
            )}
            <text x={6} y={12 + 11 * k} fontSize={10} fill={colour}>
              {t.value}
              {chosen.speed ? " a frame" : ""}
            </text>
            {!chosen.speed &&
              t.pins.map((stood, i) => {
                const pin = drawn(t.value, stood);
                const lit = mine.some((c) => samePin(c, refOf(p, t.value, stood.time)));
                const [cx, cy] = [p.x(pin.time), y(pin.value ?? 0)];
                if (cx < -40 || cx > p.width + 40) return null;
                return (
                  <g key={i}>
                    {(["in", "out"] as const).map((side) => {
                      const h = pin[side];
                      const used =
                        side === "out"
                          ? pin.next === "curve" && i + 1 < t.pins.length
                          : t.pins[i - 1]?.next === "curve";
                      if (!h || !used) return null;
                      const [hx, hy] = [p.x(pin.time + h.time), y((pin.value ?? 0) + (h.value ?? 0))];
                      return (
                        <g key={side}>
                          <line x1={cx} y1={cy} x2={hx} y2={hy} stroke={colour} strokeOpacity={0.6} />
                          <rect
                            x={hx - 3}
                            y={hy - 3}
                            width={6}
                            height={6}
                            rx={1.5}
                            fill="var(--ground)"
                            stroke={colour}
                            className="cursor-grab touch-none"
                            data-pin="handle"
                            data-testid={`handle-${side}-${t.value}-${pin.time}`}
                            onPointerDown={(e) => {
                              let now: Draft | null = null;
                              follow(
                                e,
                                (dx, dy, ev) => {
                                  const to = {
                                    time: h.time + dx / p.per,
                                    value: (h.value ?? 0) - (dy / tall) * (hi - lo),
                                  };
                                  const pinned = refOf(p, t.value, stood.time);
                                  now = {
                                    value: t.value,
                                    time: stood.time,
                                    pin: { ...stood, [side]: to },
                                    edit: { setHandle: { pin: pinned, side, ...to, broken: ev.shiftKey } },
                                  };
                                  setDraft(now);
                                },
                                () => (now ? save(now.edit) : setDraft(null)),
                              );
                            }}
                          >
                            <title>Drag the handle; with Shift, without the one on the other side</title>
                          </rect>
                        </g>
                      );
                    })}
                    <circle
                      cx={cx}
                      cy={cy}
                      r={lit ? 5 : 4}
                      fill={colour}
                      stroke={lit ? "var(--ink)" : "none"}
                      strokeWidth={1.5}
                      className="cursor-grab touch-none"
                      data-pin={pin.time}
                      data-testid={`pin-${t.value}-${pin.time}`}
                      onPointerDown={(e) => {
                        if (e.button !== 0) return;
                        const ref = refOf(p, t.value, stood.time);
                        if (e.shiftKey) return choosePins([ref], true);
                        if (lit && chosen.pins.length + chosen.bars.length > 1)
                          return dragChosen(e, stood.time, p, p.shot.document, edit, () =>
                            choosePins([ref], false),
                          );
                        choosePins([ref], false);
                        let now: Draft | null = null;
                        follow(
                          e,
                          (dx, dy, ev) => {
                            const time = ev.shiftKey
                              ? stood.time
                              : Math.max(0, snap(stood.time + dx / p.per, p.edges, p.per, ev.altKey));
                            const value = (stood.value ?? 0) - (dy / tall) * (hi - lo);
                            now = {
                              value: t.value,
                              time: stood.time,
                              pin: { ...stood, time, value },
                              edit: { setPin: { ...ref, time, from: stood.time, to: value } },
                            };
                            setDraft(now);
                          },
                          () => {
                            if (now) return save(now.edit);
                            visit(p, stood.time);
                            setDraft(null);
                          },
                        );
                      }}
                    >
                      <title>{`${t.value} ${Number((pin.value ?? 0).toPrecision(5))} on ${Number(pin.time.toFixed(2))}`}</title>
                    </circle>
                  </g>
                );
              })}
          </g>
        );
      })}
    </svg>
  );
}
