import { useQueries, useQuery } from "@tanstack/react-query";
import { api } from "../api/client";
import { setPart } from "../api/edits";
import { useEdits } from "../api/queries";
import type { Measured, Part, ShotReply } from "../api/types.gen";
import { Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { useUi } from "../state/ui";
import { Section } from "./Section";

/** What the core measures of a part. */
export const useMeasured = (shot: ShotReply, part: string) => useQuery(measured(shot, part)).data;

const measured = (shot: ShotReply, part: string) => ({
  queryKey: ["measures", shot.id, shot.version, part],
  queryFn: () => api.measures(shot.id, part),
  placeholderData: (p: Measured | undefined) => p,
  gcTime: 30_000,
});

/** How many parts are asked whether their sizes are one. */
const asked = 30;

/** Width, height and depth, in millimetres and in percent, by themselves or with their proportions. */
export function SizeSection({ shot, parts }: { shot: ShotReply; parts: Part[] }) {
  const { edit } = useEdits();
  const even = useUi((s) => s.even);
  const first = parts[0]!;
  const all = useQueries({ queries: parts.slice(0, asked).map((p) => measured(shot, p.id)) });
  const m = all[0]?.data;
  const differs = (of: (at: number) => number | undefined) => {
    const one = of(0);
    return all.some((_, k) => Math.abs((of(k) ?? one ?? 0) - (one ?? 0)) > 1e-9 * Math.abs(one ?? 0));
  };
  const ids = parts.map((p) => p.id);
  const still = parts.some((p) => p.locked);
  const alone = parts.length === 1;
  return (
    <Section title="Size" note={alone ? "along its own axes" : "each along its own axes"}>
      {m &&
        (["Width", "Height", "Depth"] as const).map((label, axis) => (
          <NumberField
            key={label}
            label={label}
            kind="length"
            unit="mm"
            digits={2}
            min={1e-9}
            disabled={still || m.size[axis]! < 1e-12}
            mixed={differs((k) => all[k]?.data?.size[axis])}
            value={m.size[axis]!}
            onChange={(to) => void edit({ setSize: { parts: ids, axis, to, even } })}
          />
        ))}
      {(m ? (even ? [0] : [0, 1, 2]) : []).map((axis) => (
        <NumberField
          key={axis}
          label={even ? "Of its size when it came" : ["Width, of when it came", "Height", "Depth"][axis]!}
          kind="percent"
          unit="%"
          digits={3}
          min={1e-6}
          disabled={still}
          mixed={differs((k) => all[k]?.data?.came[axis])}
          value={m!.came[axis]! * 100}
          onChange={(v) =>
            void edit({
              setSize: { parts: ids, axis, factor: v / 100 / m!.came[axis]!, even },
            })
          }
        />
      ))}
      <Toggle label="Keep the proportions" on={even} onChange={(even) => useUi.setState({ even })} />
      {alone && (
        <Toggle
          label="Part of the set: the fit lets it out"
          on={first.set ?? false}
          onChange={(set) => void edit(setPart(first.id, { set: set || undefined }))}
        />
      )}
    </Section>
  );
}
