import { instead, setPart, setPicture } from "../api/edits";
import { useEdits } from "../api/queries";
import type { LightSpec, ShotReply } from "../api/types.gen";
import { uploadSky } from "../api/client";
import { Button, ColorField, Pick, Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import type { Kind } from "../fields/quantity";
import { choose } from "../screen/files";
import { say } from "../state/notices";
import { fromLinear, toLinear } from "./srgb";
import { Section } from "./Section";

/** What measures a light of each kind has. */
const measures: Record<string, [keyof LightSpec, string, Kind, string][]> = {
  softbox: [
    ["width", "Width", "length", "mm"],
    ["height", "Height", "length", "mm"],
  ],
  disc: [["radius", "Radius", "length", "mm"]],
  bulb: [["radius", "Radius", "length", "mm"]],
  spot: [
    ["radius", "Radius", "length", "mm"],
    ["inner", "Full up to", "angle", "°"],
    ["outer", "None beyond", "angle", "°"],
  ],
  sun: [["angle", "Across, as seen", "angle", "°"]],
};

/** What a light needs to become one of another kind. */
const kinds = ["softbox", "disc", "bulb", "spot", "sun"];
function turned(l: LightSpec, kind: string): LightSpec {
  const across = l.width || 2 * (l.radius || 0.1);
  const out: LightSpec = { ...l, kind: (kind === "softbox" ? undefined : kind) as LightSpec["kind"] };
  if (kind === "softbox") Object.assign(out, { width: l.width || across, height: l.height || across });
  else if (kind === "sun") out.angle = l.angle || (0.53 * Math.PI) / 180;
  else out.radius = l.radius || across / 2;
  if (kind === "spot") Object.assign(out, { inner: l.inner || 0.3, outer: l.outer || 0.5 });
  return out;
}

const darker = (c: [number, number, number]) => c.map((v) => v * 0.6) as [number, number, number];

export function LightSheet({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const d = shot.document;
  const e = d.environment;
  const sky = (change: Partial<typeof e>) => void edit(setPicture({ environment: change }));
  return (
    <>
      {(d.finishes ?? []).length > 0 && (
        <Section title="Finish">
          <Pick
            label="Shown"
            value={d.finish ?? ""}
            choices={[
              { value: "", name: "as it came" },
              ...d.finishes!.map((f) => ({ value: f.id, name: f.name })),
            ]}
            onChange={(finish) => void edit({ setFinish: { finish } })}
          />
        </Section>
      )}
      <Section title="Environment" note={e.picture ? e.name : "gradient"}>
        <NumberField
          label="Strength"
          value={e.strength}
          kind="number"
          digits={3}
          step={0.1}
          min={0}
          onChange={(strength) => sky({ strength })}
        />
        {e.picture ? (
          <NumberField
            label="Turned by"
            value={(e.turn ?? 0) / (2 * Math.PI)}
            kind="angle"
            unit="°"
            digits={2}
            onChange={(v) => sky({ turn: v * 2 * Math.PI })}
          />
        ) : null}
        <div className="my-1.5 flex gap-1.5">
          <Button
            title="A Radiance (.hdr) or EXR picture all round, twice as wide as high, lights in the place of the gradient"
            onClick={() =>
              choose(".hdr,.exr", false, ([file]) => {
                if (file)
                  uploadSky(file).then(
                    (got) => sky({ picture: got.hash, name: got.name }),
                    (x: unknown) => say((x as Error).message),
                  );
              })
            }
          >
            {e.picture ? "Another picture…" : "A picture…"}
          </Button>
          {e.picture && (
            <Button onClick={() => sky({ picture: undefined, name: undefined, turn: undefined })}>
              The gradient again
            </Button>
          )}
        </div>
        <Toggle label="Seen behind everything" on={e.seen ?? false} onChange={(seen) => sky({ seen })} />
        {(e.picture ? [] : (["zenith", "horizon", "ground"] as const)).map((k) => (
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
            void edit(setPart(p.id, { hidden, light: change }));
          return (
            <Section key={p.id} title={p.name} note={l.kind || "softbox"}>
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
              <Pick
                label="Kind"
                value={l.kind || "softbox"}
                choices={kinds.map((k) => ({ value: k, name: k }))}
                onChange={(k) => void edit(setPart(p.id, { light: instead(l, turned(l, k)) }))}
              />
              <Pick
                label="Bound to"
                value={p.parent}
                choices={[
                  { value: "", name: "the room", note: "the object turns in its light" },
                  ...d.parts
                    .filter((q) => q.camera || (!q.light && q.kind !== "floor" && q.kind !== "cutter"))
                    .slice(0, 150)
                    .map((q) => ({
                      value: q.id,
                      name: q.name,
                      note: q.camera ? "it goes with the camera" : undefined,
                    })),
                ]}
                onChange={(parent) => void edit({ putIn: { parts: [p.id], parent, before: "", keep: true } })}
              />
              {measures[l.kind || "softbox"]!.map(([key, label, kind, unit]) => (
                <NumberField
                  key={key}
                  label={label}
                  value={((l[key] as number | undefined) ?? 0) / (kind === "angle" ? 2 * Math.PI : 1)}
                  kind={kind}
                  unit={unit}
                  digits={kind === "angle" ? 3 : 1}
                  step={kind === "angle" ? 1 : 10}
                  min={0.00001}
                  onChange={(v) => set({ [key]: kind === "angle" ? v * 2 * Math.PI : v })}
                />
              ))}
              <NumberField
                label="Temperature, 0 for a colour"
                value={l.temperature ?? 0}
                kind="number"
                unit="K"
                digits={0}
                step={100}
                min={0}
                max={25000}
                onChange={(k) => set({ temperature: k > 0 ? Math.max(1667, k) : undefined })}
              />
              {!l.temperature && (
                <ColorField
                  label="Colour"
                  value={fromLinear(l.color)}
                  onChange={(c) => set({ color: toLinear(c) })}
                />
              )}
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
            { value: "film, low contrast", name: "film, low contrast", note: "a smooth shoulder" },
            { value: "film", name: "film" },
            { value: "film, high contrast", name: "film, high contrast" },
          ]}
          onChange={(view) => void edit(setPicture({ view }))}
        />
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
          </>
        )}
      </Section>
    </>
  );
}
