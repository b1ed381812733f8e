import type { ShotReply } from "../api/types.gen";
import { useFrame } from "../state/clock";
import { reading, useMetering, useMeters } from "../state/meters";
import { useUi } from "../state/ui";
import { Section } from "./Section";

/** How the selected part goes on the frame of the playhead, and what its distance is measured to. */
export function Meters({ shot }: { shot: ShotReply }) {
  const { part, against, list, busy } = useMeters(shot);
  const frame = useFrame();
  const lanes = useMetering((s) => s.on);
  if (!part)
    return (
      <Section title="Meters">
        <p className="text-quiet">
          Select a part or a camera, and its speed, its turning and its distance from another part are
          measured on every frame.
        </p>
      </Section>
    );
  return (
    <Section title={`Meters of ${part.name}`} note={busy ? "measuring…" : undefined}>
      <dl className="grid grid-cols-[1fr_auto] gap-x-2 gap-y-1" data-testid="meters">
        {list.map((m) => (
          <div key={m.name} className="contents">
            <dt>{m.name}</dt>
            <dd className="font-mono text-[11px]">
              {reading(m.values[frame])} {m.unit}
            </dd>
          </div>
        ))}
      </dl>
      <label className="mt-2 flex items-center gap-2">
        <span className="shrink-0 text-quiet">Distance to</span>
        <select
          className="h-[26px] min-w-0 flex-1 rounded-sm border border-line bg-raised px-1.5"
          value={against}
          onChange={(e) => useUi.setState({ against: e.target.value })}
        >
          <option value="">nothing</option>
          {shot.document.parts
            .filter((p) => p.id !== part.id && !["camera", "light"].includes(p.kind))
            .map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
        </select>
      </label>
      <label className="mt-2 flex items-center gap-2">
        <input
          type="checkbox"
          checked={lanes}
          onChange={(e) => useMetering.setState({ on: e.target.checked })}
        />
        Lanes under the score, in every step
      </label>
    </Section>
  );
}
