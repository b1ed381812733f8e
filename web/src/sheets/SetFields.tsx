import { setPart } from "../api/edits";
import { useEdits, useShot } from "../api/queries";
import type { Part, ShotReply } from "../api/types.gen";
import { Pick } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { Section } from "./Section";

/** The measures of a plinth. */
export function PlinthFields({ part }: { part: Part }) {
  const { edit } = useEdits();
  const disc = part.plinth!;
  const set = (change: Partial<typeof disc>) => void edit(setPart(part.id, { plinth: change }));
  return (
    <Section title="Plinth" note={<SizePlinth />}>
      <Pick
        label="Form"
        value={disc.form || "disc"}
        choices={["disc", "stepped disc", "slab", "column"].map((v) => ({ value: v, name: v }))}
        onChange={(form) => set({ form: form === "disc" ? "" : form })}
      />
      <NumberField
        label="Radius"
        value={disc.radius}
        kind="length"
        unit="mm"
        digits={2}
        min={0.00001}
        onChange={(radius) => set({ radius })}
      />
      <NumberField
        label="Height"
        value={disc.height}
        kind="length"
        unit="mm"
        digits={2}
        min={0.00001}
        onChange={(height) => set({ height })}
      />
      <NumberField
        label="Rounded edge"
        value={disc.bevel}
        kind="length"
        unit="mm"
        digits={2}
        min={0}
        onChange={(bevel) => set({ bevel })}
      />
    </Section>
  );
}

/** A floor that is seen, or one that only receives shadow. */
export function FloorFields({ shot, part }: { shot: ShotReply; part: Part }) {
  const { edit } = useEdits();
  const size = shot.document.parts.find((p) => p.plinth)?.plinth?.radius ?? 0.1;
  const set = (ground: number) => void edit(setPart(part.id, { ground }));
  return (
    <Section title="Floor">
      <Pick
        label="Kind"
        value={(part.ground ?? 0) > 0}
        choices={[
          { value: false, name: "shadow only", note: "into the alpha" },
          { value: true, name: "solid", note: "seen, and not framed" },
        ]}
        onChange={(solid) => set(solid ? Number((size * 40).toPrecision(2)) : 0)}
      />
      {(part.ground ?? 0) > 0 && (
        <NumberField
          label="Side"
          value={part.ground!}
          kind="length"
          unit="mm"
          digits={1}
          min={0.00001}
          onChange={set}
        />
      )}
    </Section>
  );
}

/** Sizes the plinth to the model again and stands the model on it. */
function SizePlinth() {
  const { edit } = useEdits();
  const source = useShot()?.document.sources[0];
  if (!source) return null;
  return (
    <button
      type="button"
      className="underline hover:text-ink"
      onClick={() => void edit({ stage: { part: source.root } })}
    >
      size it to the model
    </button>
  );
}
