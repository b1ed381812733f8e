import { useEdits } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { ColorField, Pick, Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { fromLinear, toLinear } from "./srgb";
import { Coming, Section } from "./Sheet";

export function LightSheet({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const d = shot.document;
  const e = d.environment;
  const sky = (change: Partial<typeof e>) => void edit({ setPicture: { environment: { ...e, ...change } } });
  return (
    <>
      <Section title="Environment" note="gradient">
        <NumberField
          label="Strength"
          value={e.strength}
          kind="number"
          digits={3}
          step={0.1}
          min={0}
          onChange={(strength) => sky({ strength })}
        />
        {(["zenith", "horizon", "ground"] as const).map((k) => (
          <ColorField
            key={k}
            label={{ zenith: "Straight up", horizon: "Level", ground: "Straight down" }[k]}
            value={fromLinear(e[k])}
            onChange={(c) => sky({ [k]: toLinear(c) })}
          />
        ))}
      </Section>
      {d.parts
        .filter((p) => p.light)
        .map((p) => {
          const l = p.light!;
          const set = (change: Partial<typeof l>, hidden = p.hidden) =>
            void edit({ setPart: { part: { ...p, hidden, light: { ...l, ...change } } } });
          return (
            <Section key={p.id} title={p.name} note="softbox">
              <Toggle label="On" on={!p.hidden} onChange={(on) => set({}, !on)} />
              <NumberField
                label="Strength"
                value={l.strength}
                kind="number"
                digits={3}
                step={0.5}
                min={0}
                onChange={(strength) => set({ strength })}
              />
              <NumberField
                label="Width"
                value={l.width}
                kind="length"
                unit="mm"
                digits={1}
                step={10}
                min={0.00001}
                onChange={(width) => set({ width })}
              />
              <NumberField
                label="Height"
                value={l.height}
                kind="length"
                unit="mm"
                digits={1}
                step={10}
                min={0.00001}
                onChange={(height) => set({ height })}
              />
              <ColorField
                label="Colour"
                value={fromLinear(l.color)}
                onChange={(c) => set({ color: toLinear(c) })}
              />
            </Section>
          );
        })}
      <Section title="Picture">
        <Pick
          label="View transform"
          value={d.view}
          choices={[
            { value: "plain", name: "plain", note: "flat colours as typed" },
            { value: "neutral", name: "neutral", note: "highlights rolled off" },
          ]}
          onChange={(view) => void edit({ setPicture: { view } })}
        />
        <Toggle
          label="Transparent backdrop"
          on={d.backdrop === null}
          onChange={(on) =>
            void edit({ setPicture: on ? { transparent: true } : { backdrop: [0.93, 0.92, 0.9] } })
          }
        />
        {d.backdrop && (
          <ColorField
            label="Backdrop"
            value={d.backdrop}
            onChange={(backdrop) => void edit({ setPicture: { backdrop } })}
          />
        )}
      </Section>
      <Coming>HDR pictures, more kinds of light, rigs, finishes and proofs are going to be here.</Coming>
    </>
  );
}
