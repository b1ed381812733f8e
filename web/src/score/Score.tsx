import { Pause, Play } from "lucide-react";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Move, Part, ShotReply } from "../api/types.gen";
import { clock, useFrame, usePlaying } from "../state/clock";
import { goTo, select, useUi } from "../state/ui";
import { Dial } from "./Dial";

const wrap = 58; // pixels of the zones that show the other end of the loop
const lane = 27;

/** The time panel: the dial, and a lane for each part that moves. */
export function Score({ shot }: { shot: ShotReply }) {
  return (
    <section className="flex h-[236px] shrink-0 border-t border-line bg-panel" aria-label="Score">
      <div className="flex w-[208px] shrink-0 flex-col items-center justify-between border-r border-line py-3">
        <Dial shot={shot} />
        <Transport shot={shot} />
      </div>
      <Lanes shot={shot} />
    </section>
  );
}

function Transport({ shot }: { shot: ShotReply }) {
  const playing = usePlaying();
  const rate = shot.document.rate.num / shot.document.rate.den;
  const [reached, setReached] = useState(0);
  useEffect(() => {
    const t = setInterval(() => setReached(clock.playing ? clock.reached : 0), 500);
    return () => clearInterval(t);
  }, []);
  const cap = "rounded-sm border border-line px-1 font-mono text-[11px] text-quiet hover:text-ink";
  const slow = playing !== 0 && reached > 0 && reached < rate * 0.9;
  return (
    <div className="flex w-full items-center justify-between px-4">
      <button type="button" className={cap} aria-label="Play backwards" onClick={() => clock.play(-1)}>
        J
      </button>
      <button
        type="button"
        aria-label={playing ? "Stop" : "Play"}
        onClick={() => clock.play(playing ? 0 : 1)}
        className="flex size-[30px] items-center justify-center rounded-full border-2 border-verdigris text-verdigris"
      >
        {playing ? <Pause size={13} fill="currentColor" /> : <Play size={13} fill="currentColor" />}
      </button>
      <button type="button" className={cap} aria-label="Play forwards" onClick={() => clock.play(1)}>
        L
      </button>
      <span
        className={`w-[74px] text-right text-[11px] ${slow ? "text-brass" : "text-quiet"}`}
        title={
          slow
            ? "This machine shows fewer pictures; the speed is true, the others are dropped"
            : "Frames a second"
        }
      >
        {slow ? `${reached.toFixed(0)} of ${Number(rate.toFixed(2))} f/s` : `${Number(rate.toFixed(3))} f/s`}
      </span>
    </div>
  );
}

/** Steps of the ruler: the smallest round number of frames that leaves its labels room. */
function rulerStep(perFrame: number): number {
  for (const s of [1, 2, 5, 6, 12, 24, 48, 96, 120, 240, 480, 1000, 2000, 5000, 10000, 20000])
    if (s * perFrame >= 44) return s;
  return 50000;
}

function Lanes({ shot }: { shot: ShotReply }) {
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(800);
  const { frames, ending } = shot.document;
  const loop = ending === "loop";
  const selected = useUi((s) => s.selected);
  useLayoutEffect(() => {
    const watch = new ResizeObserver(() => setWidth(ref.current!.clientWidth));
    watch.observe(ref.current!);
    return () => watch.disconnect();
  }, []);
  const inner = Math.max(50, width - 2 * wrap);
  const per = inner / frames; // pixels a frame
  const x = (f: number) => wrap + f * per;
  const step = rulerStep(per);
  const rows = useMemo(() => shot.document.parts.filter((p) => p.moves.length > 0), [shot]);
  const closes = new Map(shot.closings.map((c) => [c.move, c.closes]));
  const camera = shot.document.parts.find((p) => p.id === shot.document.camera);
  const scrub = (e: React.PointerEvent) => {
    const left = ref.current!.getBoundingClientRect().left;
    clock.seek(Math.floor((e.clientX - left - wrap) / per + 1e-6));
  };
  const marks: number[] = [];
  for (let f = -Math.floor(wrap / per / step) * step; f * per < inner + wrap - 14; f += step) marks.push(f);
  const cameraTurns = rows.some((p) => p.moves.some((m) => m.turntable?.moves === "camera" && !m.muted));
  return (
    <>
      <div className="w-[176px] shrink-0 border-r border-line pt-[26px]">
        {rows.map((p) => (
          <button
            key={p.id}
            type="button"
            style={{ height: lane * p.moves.length }}
            onClick={() => {
              select(p.id);
              goTo("Move");
            }}
            className={`flex w-full items-start truncate px-3 pt-1 text-left hover:bg-raised ${p.id === selected ? "bg-verdigris/20" : ""}`}
          >
            {p.name}
          </button>
        ))}
        {camera && (
          <p className="truncate px-3 pt-1 text-quiet" style={{ height: lane }}>
            Camera · {camera.name.toLowerCase()}
          </p>
        )}
      </div>
      <div ref={ref} className="relative min-w-0 flex-1 overflow-hidden">
        <div
          className="absolute inset-x-0 top-0 z-10 h-[26px] cursor-ew-resize touch-none"
          data-testid="ruler"
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            clock.play(0);
            scrub(e);
          }}
          onPointerMove={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && scrub(e)}
        />
        <svg width={width} height={236} className="absolute inset-0" aria-hidden>
          {marks.map((f) => {
            const outside = f < 0 || f >= frames;
            if (outside && !loop) return null;
            const label = ((f % frames) + frames) % frames;
            return (
              <g key={f} opacity={outside ? 0.5 : 1}>
                <line x1={x(f)} x2={x(f)} y1={26} y2={206} stroke="var(--line)" />
                {f !== frames && (
                  <text x={x(f) + 4} y={15} fontSize={10.5} fill="var(--quiet)" fontFamily="var(--font-mono)">
                    {label}
                  </text>
                )}
              </g>
            );
          })}
          <line x1={0} x2={width} y1={26} y2={26} stroke="var(--line)" />
        </svg>
        <div className="absolute inset-x-0 top-[26px]">
          {rows.map((p) => (
            <div key={p.id}>
              {p.moves.map((m) => (
                <Bar
                  key={m.id}
                  part={p}
                  move={m}
                  frames={frames}
                  loop={loop}
                  x={x}
                  width={width}
                  closes={closes.get(m.id) ?? true}
                />
              ))}
            </div>
          ))}
          {cameraTurns && (
            <div className="mt-2 h-px bg-brass/60" style={{ marginLeft: wrap, marginRight: wrap }} />
          )}
        </div>
        {loop && (
          <>
            <div
              className="hatched pointer-events-none absolute top-[26px] bottom-[28px] left-0"
              style={{ width: wrap }}
            />
            <div
              className="hatched pointer-events-none absolute top-[26px] right-0 bottom-[28px]"
              style={{ width: wrap }}
            />
          </>
        )}
        {[0, frames].map((f) => (
          <div
            key={f}
            className={`pointer-events-none absolute top-0 bottom-[28px] border-l-2 ${loop ? "border-dashed border-coral" : "border-line"}`}
            style={{ left: x(f) - 1 }}
          />
        ))}
        <Playhead x={x} />
        <div className="absolute inset-x-0 bottom-0 flex h-[26px] items-center justify-between px-3 text-[11px] text-quiet">
          <span>{loop ? "before the seam" : ""}</span>
          <span>{loop ? `Whole loop · ${frames} frames` : `Plays once · ${frames} frames`}</span>
          <span>{loop ? "after the seam" : ""}</span>
        </div>
      </div>
    </>
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

function words(m: Move): string {
  if (m.turntable) {
    const t = m.turntable;
    return `${t.moves === "camera" ? "Camera round" : "Turntable"} · ${t.turns} ${t.turns === 1 ? "turn" : "turns"} ${t.direction} · constant`;
  }
  if (m.turn)
    return `Turn · ${Number(m.turn.turns.toFixed(3))} ${m.turn.turns === 1 ? "turn" : "turns"} ${m.turn.direction} · ${m.turn.pace.kind === "constant" ? "constant" : "eased"}`;
  if (m.float)
    return `Float · ${Number((m.float.height * 1000).toFixed(2))} mm · every ${Number(m.float.period.toFixed(2))} f`;
  return m.kind;
}

/** Stretches of time that a move fills, with how its progress runs in each. */
function stretches(
  m: Move,
  frames: number,
  loop: boolean,
): { from: number; to: number; curve: (u: number) => number }[] {
  if (m.float) {
    const out = [];
    const bump = (u: number) => (1 - Math.cos(2 * Math.PI * u)) / 2;
    for (let f = 0; f < frames - 1e-6 && out.length < 400; f += m.float.period) {
      const to = Math.min(frames, f + m.float.period);
      const part = (to - f) / m.float.period;
      out.push({ from: f, to, curve: (u: number) => bump(u * part) });
    }
    return out;
  }
  const pace = m.turn?.pace.kind === "bezier" ? (u: number) => u * u * (3 - 2 * u) : (u: number) => u;
  const span = m.turn?.span;
  if (!span) return [{ from: 0, to: frames, curve: pace }];
  const out = [{ from: span.from, to: span.to, curve: pace }];
  if (loop && span.to > frames) out.push({ from: span.from - frames, to: span.to - frames, curve: pace });
  return out;
}

function Bar(p: {
  part: Part;
  move: Move;
  frames: number;
  loop: boolean;
  x: (f: number) => number;
  width: number;
  closes: boolean;
}) {
  const { move: m, frames, loop, x } = p;
  const base = stretches(m, frames, loop);
  const all = loop
    ? [-1, 0, 1].flatMap((lap) =>
        base.map((s) => ({ ...s, from: s.from + lap * frames, to: s.to + lap * frames, lap })),
      )
    : base.map((s) => ({ ...s, lap: 0 }));
  const colour = m.muted ? "var(--quiet)" : p.closes ? "var(--brass)" : "var(--coral)";
  return (
    <div className="relative" style={{ height: lane }}>
      {all.map((s, i) => {
        const left = x(s.from);
        const w = x(s.to) - left;
        if (left > p.width || left + w < 0) return null;
        const points = Array.from(
          { length: 33 },
          (_, k) => `${(k / 32) * w},${19 - 16 * s.curve(k / 32)}`,
        ).join(" ");
        const first = s.lap === 0 && s === all.find((o) => o.lap === 0);
        return (
          <button
            key={i}
            type="button"
            tabIndex={first ? 0 : -1}
            aria-label={first ? words(m) : undefined}
            aria-hidden={!first}
            title={words(m)}
            onClick={() => {
              select(p.part.id);
              goTo("Move");
            }}
            className="absolute top-[3px] h-[21px] overflow-hidden rounded-[3px] border text-left"
            style={{
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
            {first && (
              <span className="relative truncate px-2 text-[11px] whitespace-nowrap">{words(m)}</span>
            )}
          </button>
        );
      })}
    </div>
  );
}
