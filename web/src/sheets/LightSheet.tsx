import { setPart, setPicture } from "../api/edits";
import { useEdits } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { ColorField, Pick, Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { useUi } from "../state/ui";
import { FinishTable } from "./FinishTable";
import { MaterialsSection } from "./MaterialsSection";
import { RigSection } from "./RigSection";
import { Section } from "./Section";
import { Surroundings } from "./Surroundings";

const darker = (c: [number, number, number]) => c.map((v) => v * 0.6) as [number, number, number];

/** Light, materials and finishes. What is selected decides which of them comes first. */
export function LightSheet({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const d = shot.document;
  const selected = useUi((s) => s.selected);
  const part = d.parts.find((p) => p.id === selected);
  const at = shot.shown.findIndex((p) => p.floor);
  const floor = d.parts[at];
  const surface = part !== undefined && !part.light && !part.camera && part.kind !== "floor";
  const lights = (
    <>
      <RigSection shot={shot} />
      <Surroundings shot={shot} />
    </>
  );
  const materials = (
    <>
      <MaterialsSection shot={shot} />
      <FinishTable shot={shot} />
    </>
  );
  return (
    <>
      {surface ? materials : lights}
      {surface ? lights : materials}
      <Section title="Picture">
        <Pick
          label="View transform"
          value={d.view}
          choices={[
            { value: "plain", name: "plain", note: "flat colours as typed" },
            { value: "neutral", name: "neutral", note: "highlights rolled off" },
            { value: "film, low contrast", name: "film, low contrast", note: "a smooth shoulder" },
            { value: "film", name: "film" },
            { value: "film, high contrast", name: "film, high contrast" },
          ]}
          onChange={(view) => void edit(setPicture({ view }))}
        />
        {floor && (
          <NumberField
            label="Floor's shadow fades over"
            kind="percent"
            unit="%"
            digits={0}
            step={1}
            min={0}
            max={50}
            value={(shot.shown[at]!.fade ?? 0) * 100}
            onChange={(v) => void edit(setPart(floor.id, { fade: v / 100 }))}
          />
        )}
        <Toggle
          label="Transparent backdrop"
          on={d.backdrop === null}
          onChange={(on) =>
            void edit(
              setPicture(on ? { backdrop: null, backdropLow: null } : { backdrop: [0.93, 0.92, 0.9] }),
            )
          }
        />
        {d.backdrop && (
          <>
            <ColorField
              label={d.backdropLow ? "At the upper edge" : "Backdrop"}
              value={d.backdrop}
              onChange={(backdrop) => void edit(setPicture({ backdrop }))}
            />
            <Toggle
              label="Gradient"
              on={d.backdropLow !== undefined && d.backdropLow !== null}
              onChange={(on) => void edit(setPicture({ backdropLow: on ? darker(d.backdrop!) : null }))}
            />
            {d.backdropLow && (
              <ColorField
                label="At the lower edge"
                value={d.backdropLow}
                onChange={(backdropLow) => void edit(setPicture({ backdropLow }))}
              />
            )}
            <NumberField
              label="Vignette"
              kind="percent"
              unit="%"
              digits={0}
              step={5}
              min={0}
              max={100}
              value={(d.vignette ?? 0) * 100}
              onChange={(v) => void edit(setPicture({ vignette: v / 100 || undefined }))}
            />
          </>
        )}
      </Section>
    </>
  );
}
