import { setPart } from "../api/edits";
import { useEdits } from "../api/queries";
import type { Part } from "../api/types.gen";
import { NumberField } from "../fields/NumberField";
import { Section } from "./Section";

/** The shapes that a part's mesh can be mixed with, and by how much it is at rest; clips add to that. */
export function MorphFields({ part }: { part: Part }) {
  const { edit } = useEdits();
  const morphs = part.morphs!;
  return (
    <Section title="Shapes" note={`${morphs.length} mixed in at rest`}>
      {morphs.map((m, k) => (
        <NumberField
          key={k}
          label={m.name}
          value={m.weight * 100}
          kind="percent"
          min={-100_000}
          max={100_000}
          onChange={(v) =>
            void edit(
              setPart(part.id, { morphs: morphs.map((o, n) => (n === k ? { ...o, weight: v / 100 } : o)) }),
            )
          }
        />
      ))}
    </Section>
  );
}
