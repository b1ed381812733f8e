import { useRef } from "react";
import type { ShotReply } from "../api/types.gen";
import { clock, useFrame } from "../state/clock";

const size = 142;
const middle = size / 2;

function at(turn: number, r: number): [number, number] {
  const a = turn * 2 * Math.PI;
  return [middle + r * Math.sin(a), middle - r * Math.cos(a)];
}

/**
 * The round scrubber: one lap is the loop and the seam is at twelve o'clock. Dragging round it scrubs
 * and never hits an end.
 */
export function Dial({ shot }: { shot: ShotReply }) {
  const frame = useFrame();
  const { frames, rate, ending } = shot.document;
  const ref = useRef<SVGSVGElement>(null);
  const last = useRef(0);
  const turnOf = (e: React.PointerEvent) => {
    const r = ref.current!.getBoundingClientRect();
    return Math.atan2(e.clientX - r.left - r.width / 2, -(e.clientY - r.top - r.height / 2)) / (2 * Math.PI);
  };
  const moving = shot.document.parts.filter((p) => p.moves.some((m) => !m.muted));
  const bad = new Set([...shot.moves, ...shot.pins].filter((c) => !c.closes).map((c) => c.part));
  const lap = (ending === "loop" ? frames : Math.max(1, frames - 1)) || 1;
  const hand = at(frame / lap, 58);
  const inner = at(frame / lap, 40);
  const majors = frames <= 400 ? 8 : 4;
  return (
    <svg
      ref={ref}
      width={size}
      height={size}
      role="slider"
      tabIndex={0}
      aria-label="Dial"
      aria-valuemin={0}
      aria-valuemax={frames - 1}
      aria-valuenow={frame}
      className="cursor-grab touch-none rounded-full active:cursor-grabbing"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        clock.play(0);
        last.current = turnOf(e);
        clock.seek(((last.current + 1) % 1) * lap);
      }}
      onPointerMove={(e) => {
        if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
        const now = turnOf(e);
        let by = now - last.current;
        if (by > 0.5) by -= 1; // over the seam
        if (by < -0.5) by += 1;
        const frames = Math.round(by * lap);
        if (frames !== 0) {
          last.current += frames / lap;
          clock.seek(clock.frame + frames);
        }
      }}
    >
      {Array.from({ length: 96 }, (_, i) => {
        const major = i % (96 / majors) === 0;
        const [x1, y1] = at(i / 96, major ? 62 : 65);
        const [x2, y2] = at(i / 96, 68);
        return (
          <line
            key={i}
            x1={x1}
            y1={y1}
            x2={x2}
            y2={y2}
            stroke="var(--quiet)"
            strokeOpacity={major ? 1 : 0.45}
          />
        );
      })}
      {moving.slice(0, 4).map((p, i) => (
        <circle
          key={p.id}
          cx={middle}
          cy={middle}
          r={56 - i * 5}
          fill="none"
          stroke={bad.has(p.id) ? "var(--coral)" : "var(--brass)"}
          strokeWidth={2}
        >
          <title>{p.name}</title>
        </circle>
      ))}
      {ending === "loop" && (
        <path d={`M${middle} 1V${middle - 34}`} stroke="var(--coral)" strokeWidth={2} strokeDasharray="4 3" />
      )}
      <line x1={inner[0]} y1={inner[1]} x2={hand[0]} y2={hand[1]} stroke="var(--ink)" strokeWidth={1.5} />
      <circle cx={hand[0]} cy={hand[1]} r={4} fill="var(--ink)" />
      <text x={middle} y={middle + 3} textAnchor="middle" fill="var(--ink)" fontSize={19}>
        {frame}
      </text>
      <text x={middle} y={middle + 18} textAnchor="middle" fill="var(--quiet)" fontSize={10.5}>
        of {frames} · {((frame * rate.den) / rate.num).toFixed(2)} s
      </text>
    </svg>
  );
}
