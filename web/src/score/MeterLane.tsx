import type { Meter } from "../api/types.gen";
import { useFrame } from "../state/clock";
import { reading } from "../state/meters";

/** How high a meter's lane is, pixels. */
export const meterHeight = 40;

const ends = (m: Meter): [number, number] => [Math.min(0, ...m.values), Math.max(...m.values, 1e-9)];

/** What a lane of meters is called, with its reading at the playhead and the ends of its scale. */
export function MeterName({ m }: { m: Meter }) {
  const frame = useFrame();
  const [low, high] = ends(m);
  return (
    <div className="flex h-full items-stretch gap-1 border-t border-line pl-3 pr-1.5">
      <div className="min-w-0 flex-1 py-0.5 leading-tight">
        <div className="truncate">{m.name}</div>
        <div className="truncate font-mono text-[11px] text-verdigris">
          {reading(m.values[frame])} {m.unit}
        </div>
      </div>
      <div className="flex flex-col justify-between py-0.5 text-right font-mono text-[10px] leading-none text-quiet">
        <span>{reading(high)}</span>
        <span>{reading(low)}</span>
      </div>
    </div>
  );
}

/** A quantity over the shot, along the time of the score. */
export function MeterLane({ m, x, width }: { m: Meter; x: (frame: number) => number; width: number }) {
  const [low, high] = ends(m);
  const y = (v: number) => meterHeight - 4 - ((meterHeight - 8) * (v - low)) / (high - low);
  const d = m.values.map((v, f) => `${f ? "L" : "M"}${x(f).toFixed(1)} ${y(v).toFixed(1)}`).join("");
  return (
    <svg width={width} height={meterHeight} role="img" aria-label={`${m.name} over the shot`}>
      <path d={`M0 0H${width}`} className="stroke-line" />
      <path d={`M${x(0)} ${y(0)}H${x(m.values.length)}`} className="stroke-line" strokeDasharray="2 3" />
      <path d={d} className="fill-none stroke-verdigris" />
    </svg>
  );
}
