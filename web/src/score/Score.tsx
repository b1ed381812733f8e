import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Meter, Move, Part, PinRef, ShotReply } from "../api/types.gen";
import { clearChosen, useChosen } from "../state/chosen";
import { clock, useFrame, useRange } from "../state/clock";
import { usePane } from "../state/panes";
import { stepped } from "../state/signals";
import { useMetering, useMeters } from "../state/meters";
import { goTo, select, useUi } from "../state/ui";
import { Bar } from "./Bar";
import { Dial } from "./Dial";
import { follow } from "./drag";
import { ChosenBar, ChosenReach } from "./ChosenBar";
import { MeterLane, MeterName, meterHeight } from "./MeterLane";
import { CurveLane, PinLane } from "./Pins";
import { Transport } from "./Transport";

const wrap = 58; // pixels of the zones that show the other end of the loop
const lane = 27;
const tall = 92; // of a lane with its curves open

/** The time panel: the dial, and a lane for each part that moves. */
export function Score({ shot }: { shot: ShotReply }) {
  const size = usePane("score");
  const metering = useMetering((s) => s.on);
  const { list } = useMeters(shot);
  const meters = metering && size > 0 ? list : [];
  const more = Math.min(meters.length, 3) * meterHeight; // the others are scrolled to
  return (
    <section
      className="flex shrink-0 border-t border-line bg-panel"
      style={{ height: size + more }}
      aria-label="Score"
    >
      <div className="flex w-[208px] shrink-0 flex-col items-center justify-between border-r border-line py-3">
        <Dial shot={shot} />
        <Transport shot={shot} />
      </div>
      <Lanes shot={shot} height={size} meters={meters} below={more} />
    </section>
  );
}

/** Steps of the ruler: the smallest round number of frames that leaves its labels room. */
function rulerStep(perFrame: number): number {
  for (const s of [1, 2, 5, 6, 12, 24, 48, 96, 120, 240, 480, 1000, 2000, 5000, 10000, 20000])
    if (s * perFrame >= 44) return s;
  return 50000;
}

interface Line {
  part: Part;
  move?: Move; // a bar, or the pins of its parameters; otherwise those of the part
  pins: boolean;
  id: string;
  top: number;
  height: number;
  first: boolean; // of its part
}

/** What part of time is in sight: from a frame, so many pixels to each. */
interface Sight {
  from: number;
  per: number;
}

/** The lanes, so high, and those of meters below them. */
function Lanes({
  shot,
  height,
  meters,
  below,
}: {
  shot: ShotReply;
  height: number;
  meters: Meter[];
  below: number;
}) {
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(800);
  const [sight, setSight] = useState<Sight | null>(null); // null for the whole shot
  const [scroll, setScroll] = useState(0);
  const [open, setOpen] = useState<Record<string, boolean>>({}); // parts whose curves are shown
  const { frames, ending } = shot.document;
  const loop = ending === "loop";
  const selected = useUi((s) => s.selected);
  useLayoutEffect(() => {
    const watch = new ResizeObserver(() => setWidth(ref.current!.clientWidth));
    watch.observe(ref.current!);
    return () => watch.disconnect();
  }, []);
  const whole = Math.max(50, width - 2 * wrap) / frames;
  const per = sight?.per ?? whole;
  const from = sight?.from ?? -wrap / whole;
  const x = useCallback((f: number) => (f - from) * per, [from, per]);
  const at = (px: number) => from + px / per;
  const step = rulerStep(per);
  const lines = useMemo(() => {
    const out: Line[] = [];
    let top = 0;
    const add = (part: Part, first: boolean, pins: boolean, move?: Move) => {
      const id = (move?.id ?? part.id) + (pins ? " pins" : "");
      const h = pins && open[id] ? tall : lane;
      out.push({ part, move, pins, id, top, height: h, first });
      top += h;
    };
    for (const part of shot.document.parts) {
      part.moves.forEach((move, i) => {
        add(part, i === 0, false, move);
        if (move.pins?.length) add(part, false, true, move);
      });
      if (part.tracks?.length) add(part, part.moves.length === 0, true);
    }
    return out;
  }, [shot, open]);
  const newest = useRef({ lines, at });
  useLayoutEffect(() => {
    newest.current = { lines, at };
  });
  const total = (lines.at(-1)?.top ?? 0) + (lines.at(-1)?.height ?? 0);
  const tallest = Math.max(height - 54, total + lane);
  const shown = lines.filter((l) => l.top + l.height > scroll - 60 && l.top < scroll + height);
  const told = useMemo(() => new Map(shot.moves.map((m) => [m.move, m])), [shot]);
  const camera = shot.document.parts.find((p) => p.id === shot.document.camera);
  /** Times that dragged things snap to: the ends of the shot, of bars, and pins. */
  const edges = useMemo(() => {
    const out = new Set([0, frames]);
    for (const p of shot.document.parts) {
      for (const m of p.moves) if (m.span) out.add(m.span.from).add(m.span.to);
      for (const t of p.tracks ?? []) for (const pin of t.pins.slice(0, 500)) out.add(pin.time);
    }
    return [...out];
  }, [shot, frames]);
  useEffect(() => {
    const jump = (by: number) => {
      // Shift and an arrow: the next pin or bar edge
      const sorted = edges.filter((t) => t < frames || !loop).sort((a, b) => a - b);
      const to =
        by > 0 ? sorted.find((t) => t > clock.frame + 0.5) : sorted.findLast((t) => t < clock.frame - 0.5);
      clock.play(0);
      clock.seek(Math.round(to ?? (by > 0 ? sorted[0]! : sorted.at(-1)!)));
    };
    return stepped.hear(jump);
  }, [edges, frames, loop]);
  useEffect(() => {
    // zooms with Ctrl about the pointer, moves along with Shift; without either the lanes scroll
    const el = ref.current!;
    const wheel = (e: WheelEvent) => {
      const r = el.getBoundingClientRect();
      const px = e.clientX - r.left;
      if (e.ctrlKey || e.metaKey) {
        const next = Math.min(80, Math.max(whole, per * Math.exp(-e.deltaY / 300)));
        const f = at(px);
        setSight(next <= whole * 1.001 ? null : { per: next, from: f - px / next });
      } else if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY)) {
        if (sight) setSight({ per, from: from + (e.deltaX || e.deltaY) / per });
      } else return;
      e.preventDefault();
    };
    el.addEventListener("wheel", wheel, { passive: false });
    return () => el.removeEventListener("wheel", wheel);
  });
  const frameAt = (e: React.PointerEvent) =>
    Math.floor(at(e.clientX - ref.current!.getBoundingClientRect().left) + 1e-6);
  const scrub = (e: React.PointerEvent) => clock.seek(frameAt(e));
  const ranging = useRef<number | null>(null); // where a range was begun
  const range = useRange();
  const [frame, setFrame] = useState<{ left: number; top: number; width: number; height: number } | null>(
    null,
  );
  const speedy = useChosen((c) => c.speed);
  /** A frame drawn over empty lanes chooses the pins and bars in it. */
  const gather = (e: React.PointerEvent) => {
    if (e.button !== 0 || (e.target as Element).closest("button,[data-pin],.cursor-grab")) return;
    const r = e.currentTarget.getBoundingClientRect();
    const [x0, y0] = [e.clientX - r.left, e.clientY - r.top];
    follow(
      e,
      (dx, dy) =>
        setFrame({
          left: Math.min(x0, x0 + dx),
          top: Math.min(y0, y0 + dy),
          width: Math.abs(dx),
          height: Math.abs(dy),
        }),
      (moved, up) => {
        setFrame(null);
        if (!moved) return clearChosen();
        const [x1, y1] = [up.clientX - r.left, up.clientY - r.top];
        const { lines, at } = newest.current; // an answer may have come during the drag
        const [a, b] = [at(Math.min(x0, x1)), at(Math.max(x0, x1))];
        const [top, bottom] = [Math.min(y0, y1), Math.max(y0, y1)];
        const pins: PinRef[] = up.shiftKey ? [...useChosen.getState().pins] : [];
        const bars: string[] = up.shiftKey ? [...useChosen.getState().bars] : [];
        for (const l of lines) {
          if (l.top + l.height < top || l.top > bottom) continue;
          if (!l.pins) {
            const span = l.move!.span;
            if (span && span.from < b && span.to > a) bars.push(l.move!.id);
            continue;
          }
          for (const t of (l.move ? l.move.pins : l.part.tracks) ?? [])
            for (const q of t.pins)
              if (q.time >= a && q.time <= b)
                pins.push({ part: l.part.id, move: l.move?.id, value: t.value, time: q.time });
        }
        useChosen.setState({ pins, bars: [...new Set(bars)] });
      },
    );
  };
  const marks: number[] = [];
  for (let f = Math.ceil(from / step) * step; x(f) < width - 14; f += step) marks.push(f);
  const cameraTurns = shot.shown.some((p) => p.carries);
  return (
    <div className="relative flex min-w-0 flex-1">
      <div
        className="min-w-0 flex-1 overflow-x-hidden overflow-y-auto pb-[26px]"
        onScroll={(e) => setScroll(e.currentTarget.scrollTop)}
        style={{ marginTop: 26, marginBottom: below }}
      >
        <div className="flex" style={{ height: tallest }}>
          <div className="relative w-[176px] shrink-0 border-r border-line">
            {shown
              .filter((l) => l.first)
              .map((l) => (
                <button
                  key={l.part.id}
                  type="button"
                  style={{
                    top: l.top,
                    height: lines.filter((o) => o.part === l.part).reduce((h, o) => h + o.height, 0),
                  }}
                  onClick={() => {
                    select(l.part.id);
                    goTo("Move");
                  }}
                  className={`absolute flex w-full items-start truncate px-3 pt-1 text-left hover:bg-raised ${l.part.id === selected ? "bg-verdigris/20" : ""}`}
                >
                  {l.part.name}
                </button>
              ))}
            {shown
              .filter((l) => l.pins)
              .map((l) => (
                <span
                  key={l.id}
                  style={{ top: l.top + 4 }}
                  className="absolute right-2 flex flex-col items-end text-[11px] text-heather"
                >
                  <button
                    type="button"
                    className="hover:underline"
                    aria-label={`${open[l.id] ? "Pins" : "Curves"} of ${l.move ? l.move.kind + " of " : ""}${l.part.name}`}
                    onClick={() => setOpen({ ...open, [l.id]: !open[l.id] })}
                  >
                    {l.move ? l.move.kind + " · " : ""}
                    {open[l.id] ? "pins" : "curves"}
                  </button>
                  {open[l.id] && (
                    <button
                      type="button"
                      className="hover:underline"
                      title="Show how fast the values change, or the values"
                      onClick={() => useChosen.setState((c) => ({ speed: !c.speed }))}
                    >
                      {speedy ? "as values" : "as speed"}
                    </button>
                  )}
                </span>
              ))}
            {camera && (
              <p className="absolute truncate px-3 pt-1 text-quiet" style={{ top: total, height: lane }}>
                Camera · {camera.name.toLowerCase()}
              </p>
            )}
          </div>
          <div
            ref={ref}
            className="relative min-w-0 flex-1 touch-none overflow-hidden select-none"
            onPointerDown={gather}
            data-testid="lanes"
          >
            <svg width={width} height={tallest} className="absolute inset-0" aria-hidden>
              {marks.map((f) =>
                (f < 0 || f >= frames) && !loop ? null : (
                  <line
                    key={f}
                    x1={x(f)}
                    x2={x(f)}
                    y1={0}
                    y2={Math.max(height, tallest)}
                    stroke="var(--line)"
                    opacity={f < 0 || f >= frames ? 0.5 : 1}
                  />
                ),
              )}
            </svg>
            {shown.map((l) => {
              const lane = {
                shot,
                part: l.part,
                move: l.move,
                frames,
                loop,
                x,
                per,
                width,
                edges,
              };
              return (
                <div key={l.id} className="absolute inset-x-0" style={{ top: l.top, height: l.height }}>
                  {!l.pins ? (
                    <Bar {...lane} shot={shot.document} move={l.move!} told={told.get(l.move!.id)} />
                  ) : open[l.id] ? (
                    <CurveLane {...lane} height={tall} />
                  ) : (
                    <PinLane {...lane} height={l.height} />
                  )}
                </div>
              );
            })}
            {frame && (
              <div
                className="pointer-events-none absolute border border-dashed border-verdigris bg-verdigris/10"
                style={frame}
              />
            )}
            {cameraTurns && (
              <div
                className="absolute h-px bg-brass/60"
                style={{ top: total + 8, left: x(0), width: x(frames) - x(0) }}
              />
            )}
          </div>
        </div>
      </div>
      <div
        className="absolute inset-x-0 bottom-[26px] overflow-x-hidden overflow-y-auto bg-panel"
        style={{ height: below }}
        data-testid="meter lanes"
      >
        {meters.map((m) => (
          <div key={m.name} className="flex" style={{ height: meterHeight }}>
            <div className="w-[176px] shrink-0 border-r border-line">
              <MeterName m={m} />
            </div>
            <MeterLane m={m} x={x} width={width} />
          </div>
        ))}
      </div>
      <MetersSwitch shot={shot} />
      <div className="pointer-events-none absolute inset-y-0 right-0 left-[176px] overflow-hidden">
        <div
          className="pointer-events-auto absolute inset-x-0 top-0 z-10 h-[26px] cursor-ew-resize touch-none border-b border-line"
          data-testid="ruler"
          title="Drag to scrub; with Shift, to let a range play alone. Ctrl and the wheel zoom, Shift and the wheel move along"
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            if (e.shiftKey) {
              ranging.current = frameAt(e);
              clock.setRange(null);
              return;
            }
            clock.play(0);
            scrub(e);
          }}
          onPointerMove={(e) => {
            if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
            if (ranging.current === null) return scrub(e);
            const f = frameAt(e);
            clock.setRange([Math.min(f, ranging.current), Math.max(f, ranging.current)]);
          }}
          onPointerUp={() => (ranging.current = null)}
        >
          {range && (
            <div
              className="absolute inset-y-0 border-x border-brass bg-brass/20"
              style={{ left: x(range[0]), width: x(range[1] + 1) - x(range[0]) }}
            />
          )}
          <svg width={width} height={26} className="pointer-events-none absolute inset-0" aria-hidden>
            {marks.map((f) => {
              const outside = f < 0 || f >= frames;
              if ((outside && !loop) || f === frames) return null;
              return (
                <text
                  key={f}
                  x={x(f) + 4}
                  y={15}
                  fontSize={10.5}
                  fill="var(--quiet)"
                  opacity={outside ? 0.5 : 1}
                  fontFamily="var(--font-mono)"
                >
                  {((f % frames) + frames) % frames}
                </text>
              );
            })}
          </svg>
          <ChosenReach shot={shot.document} x={x} per={per} edges={edges} />
        </div>
        {loop && (
          <>
            <div
              className="hatched absolute top-[26px] bottom-[28px] left-0"
              style={{ width: Math.max(0, x(0)) }}
            />
            <div
              className="hatched absolute top-[26px] right-0 bottom-[28px]"
              style={{ left: Math.max(0, x(frames)) }}
            />
          </>
        )}
        {[0, frames].map((f) => (
          <div
            key={f}
            className={`absolute top-0 bottom-[28px] border-l-2 ${loop ? "border-dashed border-coral" : "border-line"}`}
            style={{ left: x(f) - 1 }}
          />
        ))}
        <Playhead x={x} />
        <div className="absolute inset-x-0 bottom-0 flex h-[26px] items-center justify-between bg-panel px-3 text-[11px] text-quiet">
          <ChosenBar shot={shot}>
            <span>{loop ? "before the seam" : ""}</span>
            {range ? (
              <button
                type="button"
                className="pointer-events-auto text-brass underline"
                onClick={() => clock.setRange(null)}
              >
                {range[0]} to {range[1]} play alone · play all
              </button>
            ) : sight ? (
              <button
                type="button"
                className="pointer-events-auto underline hover:text-ink"
                onClick={() => setSight(null)}
              >
                show the whole {loop ? "loop" : "shot"}
              </button>
            ) : (
              <span>{loop ? `Whole loop · ${frames} frames` : `Plays once · ${frames} frames`}</span>
            )}
            <span>{loop ? "after the seam" : ""}</span>
          </ChosenBar>
        </div>
      </div>
    </div>
  );
}

function Playhead({ x }: { x: (f: number) => number }) {
  const frame = useFrame();
  return (
    <div
      className="pointer-events-none absolute top-0 bottom-[28px] z-10 w-px bg-ink"
      style={{ left: x(frame) }}
    >
      <span className="absolute top-[4px] left-1/2 -translate-x-1/2 rounded-full bg-ink px-1.5 font-mono text-[10.5px] font-semibold text-ground">
        {frame}
      </span>
    </div>
  );
}

/** Shows meters of what is selected, or puts them away. */
function MetersSwitch({ shot }: { shot: ShotReply }) {
  const on = useMetering((s) => s.on);
  const { part, busy } = useMeters(shot);
  const what = part ? ` of ${part.name}${busy ? " · measuring…" : ""}` : ": select a part";
  return (
    <button
      type="button"
      aria-pressed={on}
      title="How the selected part goes: its speed, its turning, its room to the edge, as lanes and beside the bench"
      className="absolute bottom-0 left-0 flex h-[26px] w-[175px] items-center gap-2 truncate bg-panel px-3 text-left text-[11px] text-quiet hover:text-ink"
      onClick={() => useMetering.setState({ on: !on })}
    >
      <span
        className={`size-2 shrink-0 rounded-full border ${on ? "border-verdigris bg-verdigris" : "border-quiet"}`}
      />
      <span className="truncate">Meters{on ? what : ""}</span>
    </button>
  );
}
