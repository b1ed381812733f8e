import { useRef, useState } from "react";
import type { Pace, Pin } from "../api/types.gen";

const [wide, high, pad, over] = [208, 108, 8, 0.25]; // over: what is seen beyond 0 and 1

type Four = [number, number, number, number];

/** The course of a pace as a curve: the handles of an eased one, the points of a drawn one. */
export function PacePad({
  pace,
  course,
  onChange,
}: {
  pace: Pace;
  course?: number[]; // of a drawn one, at even times, as the core has it
  onChange: (p: Pace) => void;
}) {
  const [draft, setDraft] = useState<Pace | null>(null);
  const box = useRef<SVGSVGElement>(null);
  const now = draft ?? pace;
  const x = (t: number) => pad + t * (wide - 2 * pad);
  const y = (v: number) => high - pad - ((v + over) / (1 + 2 * over)) * (high - 2 * pad);
  const at = (e: { clientX: number; clientY: number }): [number, number] => {
    const r = box.current!.getBoundingClientRect();
    return [
      (e.clientX - r.left - pad) / (wide - 2 * pad),
      ((high - pad - (e.clientY - r.top)) / (high - 2 * pad)) * (1 + 2 * over) - over,
    ];
  };
  const drag = (change: (t: number, v: number) => Pace) => ({
    onPointerDown: (e: React.PointerEvent) => {
      e.stopPropagation();
      e.currentTarget.setPointerCapture(e.pointerId);
    },
    onPointerMove: (e: React.PointerEvent) => {
      if (e.currentTarget.hasPointerCapture(e.pointerId)) setDraft(change(...at(e)));
    },
    onPointerUp: () => {
      if (draft) onChange(draft);
      setDraft(null);
    },
  });
  const round = (v: number) => Math.round(v * 1000) / 1000;
  const clamp = (v: number, lo: number, hi: number) => Math.min(hi, Math.max(lo, v));
  const b = now.bezier;
  const curve = now.curve ?? [];
  const line = b
    ? `M${x(0)} ${y(0)}C${x(b[0]!)} ${y(b[1]!)} ${x(b[2]!)} ${y(b[3]!)} ${x(1)} ${y(1)}`
    : draft || !course
      ? curve.map((q, i) => `${i ? "L" : "M"}${x(q.time).toFixed(1)} ${y(q.value ?? 0).toFixed(1)}`).join("")
      : course
          .map((v, i) => `${i ? "L" : "M"}${x(i / (course.length - 1)).toFixed(1)} ${y(v).toFixed(1)}`)
          .join("");
  const withPoint = (i: number, time: number, value: number): Pace => {
    const lo = i === 0 ? 0 : i === curve.length - 1 ? 1 : curve[i - 1]!.time + 0.005;
    const hi = i === 0 ? 0 : i === curve.length - 1 ? 1 : curve[i + 1]!.time - 0.005;
    return {
      ...pace,
      curve: curve.map((p, k) =>
        k === i ? { ...p, time: round(clamp(time, lo, hi)), value: round(clamp(value, -over, 1 + over)) } : p,
      ),
    };
  };
  return (
    <svg
      ref={box}
      width={wide}
      height={high}
      className="my-1 block touch-none rounded-sm border border-line bg-ground"
      role="img"
      aria-label={b ? "The pace and its handles" : "The drawn pace"}
      data-testid="pace-pad"
      onDoubleClick={(e) => {
        if (b) return;
        const [t, v] = at(e);
        const k = curve.findIndex((p) => p.time > t);
        if (k < 1) return;
        const pin: Pin = { time: round(t), value: round(clamp(v, -over, 1 + over)), next: "smooth" };
        onChange({ ...pace, curve: [...curve.slice(0, k), pin, ...curve.slice(k)] });
      }}
    >
      <title>{b ? "Drag the handles" : "Drag the points; double-click puts one in, or takes one out"}</title>
      <rect x={x(0)} y={y(1)} width={x(1) - x(0)} height={y(0) - y(1)} fill="none" stroke="var(--line)" />
      <path d={line} fill="none" stroke="var(--brass)" strokeWidth={1.5} />
      {b &&
        ([0, 2] as const).map((k) => (
          <g key={k}>
            <line
              x1={x(k ? 1 : 0)}
              y1={y(k ? 1 : 0)}
              x2={x(b[k]!)}
              y2={y(b[k + 1]!)}
              stroke="var(--brass)"
              strokeOpacity={0.6}
            />
            <circle
              cx={x(b[k]!)}
              cy={y(b[k + 1]!)}
              r={5}
              fill="var(--brass)"
              className="cursor-grab"
              data-testid={`pace-handle-${k / 2}`}
              {...drag((t, v) => {
                const bezier = [...pace.bezier!] as Four;
                bezier[k] = round(clamp(t, 0, 1));
                bezier[k + 1] = round(v);
                return { ...pace, bezier };
              })}
            />
          </g>
        ))}
      {!b &&
        curve.map((p, i) => (
          <circle
            key={i}
            cx={x(p.time)}
            cy={y(p.value ?? 0)}
            r={4.5}
            fill="var(--brass)"
            className="cursor-grab"
            {...drag((t, v) => withPoint(i, t, v))}
            onDoubleClick={(e) => {
              e.stopPropagation();
              if (i > 0 && i < curve.length - 1)
                onChange({ ...pace, curve: curve.filter((_, k) => k !== i) });
            }}
          />
        ))}
    </svg>
  );
}
