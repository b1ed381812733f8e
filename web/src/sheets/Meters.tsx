import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api } from "../api/client";
import type { Meter, ShotReply } from "../api/types.gen";
import { useFrame } from "../state/clock";
import { useUi } from "../state/ui";
import { Section } from "./Section";

const number = (v: number) => (Math.abs(v) < 0.005 ? "0" : Number(v.toPrecision(3)).toLocaleString("en"));

/** How the selected part goes: each quantity at the playhead, and over the shot as a lane with its scale. */
export function Meters({ shot }: { shot: ShotReply }) {
  const part = useUi((s) => s.selected) ?? "";
  const known = shot.document.parts.find((p) => p.id === part);
  const other = useUi((s) => s.against);
  const against = shot.document.parts.some((p) => p.id === other) && other !== part ? other : "";
  const { data, isFetching } = useQuery({
    queryKey: ["meters", shot.id, shot.version, part, against],
    queryFn: () => api.meters(shot.id, part, against),
    enabled: known !== undefined,
    placeholderData: keepPreviousData,
    gcTime: 30_000,
  });
  const meters = data?.meters;
  if (!known) {
    return (
      <Section title="Meters">
        <p className="text-quiet">
          Select a part or a camera, and its speed, its turning and its distance from another part are
          measured on every frame.
        </p>
      </Section>
    );
  }
  return (
    <Section title={`Meters of ${known.name}`} note={isFetching ? "measuring…" : undefined}>
      <div className="space-y-1.5" data-testid="meters">
        {meters?.map((m) => (
          <Lane key={m.name} m={m} />
        ))}
      </div>
      <label className="mt-2 flex items-center gap-2">
        <span className="shrink-0 text-quiet">Distance to</span>
        <select
          className="h-[26px] min-w-0 flex-1 rounded-sm border border-line bg-raised px-1.5"
          value={against}
          onChange={(e) => useUi.setState({ against: e.target.value })}
        >
          <option value="">nothing</option>
          {shot.document.parts
            .filter((p) => p.id !== part && !["camera", "light"].includes(p.kind))
            .map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
        </select>
      </label>
    </Section>
  );
}

function Lane({ m }: { m: Meter }) {
  const frame = useFrame();
  const low = Math.min(0, ...m.values);
  const high = Math.max(...m.values, low + 1e-9);
  const n = Math.max(1, m.values.length - 1);
  const y = (v: number) => 23 - (22 * (v - low)) / (high - low);
  const d = m.values
    .map((v, i) => `${i ? "L" : "M"}${((i / n) * 180).toFixed(1)} ${y(v).toFixed(1)}`)
    .join("");
  return (
    <div>
      <div className="flex justify-between gap-2">
        <span>{m.name}</span>
        <span className="font-mono text-[11px]">
          {number(m.values[frame] ?? 0)} {m.unit}
        </span>
      </div>
      <div className="flex items-stretch gap-1.5">
        <svg
          viewBox="0 0 180 24"
          preserveAspectRatio="none"
          className="h-[26px] min-w-0 flex-1 bg-ground"
          role="img"
          aria-label={`${m.name} over the shot`}
        >
          <path d={d} className="fill-none stroke-verdigris" vectorEffect="non-scaling-stroke" />
          <line
            x1={(frame / n) * 180}
            x2={(frame / n) * 180}
            y1="0"
            y2="24"
            className="stroke-ink"
            vectorEffect="non-scaling-stroke"
          />
        </svg>
        <div className="flex w-[52px] flex-col justify-between text-right font-mono text-[10px] leading-none text-quiet">
          <span>{number(high)}</span>
          <span>{number(low)}</span>
        </div>
      </div>
    </div>
  );
}
