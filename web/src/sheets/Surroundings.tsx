import { uploadSky, api } from "../api/client";
import { setPicture } from "../api/edits";
import { useKinds } from "../api/kinds";
import { useEdits } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { ColorField, Pick, Row, Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { choose } from "../screen/files";
import { say } from "../state/notices";
import { partChoices, Stops } from "./LightSentence";
import { Section } from "./Section";
import { fromLinear, toLinear } from "./srgb";

/** What lights from all sides: a gradient, a picture, or surroundings of our own. */
export function Surroundings({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const d = shot.document;
  const e = d.environment;
  const studios = useKinds()?.studios ?? [];
  const sky = (change: Partial<typeof e>) => void edit(setPicture({ environment: change }));
  const take = (got: Promise<{ hash: string; name: string }>) =>
    void got.then(
      (x) => sky({ picture: x.hash, name: x.name }),
      (x: unknown) => say((x as Error).message),
    );
  const own = studios.find((s) => s.name === e.name)?.name;
  const now = !e.picture ? "gradient" : (own ?? "picture");
  return (
    <Section title="Surroundings" note={e.picture ? e.name : "gradient"}>
      <Pick
        label="Lit by"
        value={now}
        choices={[
          { value: "gradient", name: "a gradient of three colours" },
          ...studios.map((s) => ({ value: s.name, name: s.name, note: s.note })),
          ...(now === "picture" ? [{ value: "picture", name: e.name ?? "a picture" }] : []),
          { value: "choose", name: "a picture…", note: "Radiance or EXR, all round" },
        ]}
        onChange={(v) => {
          if (v === "gradient") sky({ picture: undefined, name: undefined });
          else if (v === "choose")
            choose(".hdr,.exr", false, ([file]) => {
              if (file) take(uploadSky(file));
            });
          else if (v !== "picture") take(api.studio(v));
        }}
      />
      <Row label="Strength">
        <Stops
          label="Strength of the surroundings"
          value={e.strength}
          onChange={(strength) => sky({ strength })}
        />
      </Row>
      <NumberField
        label="Turned by"
        kind="angle"
        unit="°"
        digits={1}
        step={5}
        value={(e.turn ?? 0) / (2 * Math.PI)}
        onChange={(v) => sky({ turn: v * 2 * Math.PI || undefined })}
      />
      <NumberField
        label="Raised by"
        kind="angle"
        unit="°"
        digits={1}
        step={5}
        value={(e.raised ?? 0) / (2 * Math.PI)}
        onChange={(v) => sky({ raised: v * 2 * Math.PI || undefined })}
      />
      <Pick
        label="Bound to"
        value={e.bound ?? ""}
        choices={[
          { value: "", name: "the room" },
          ...(d.camera ? [{ value: d.camera, name: "the camera in use" }] : []),
          ...partChoices(
            shot,
            (p) => !p.light && p.id !== d.camera && p.kind !== "floor" && p.kind !== "cutter",
            e.bound,
          ),
        ]}
        onChange={(bound) => sky({ bound: bound || undefined })}
      />
      <Toggle
        label="Seen behind everything"
        on={e.seen ?? false}
        onChange={(seen) => sky({ seen: seen || undefined })}
      />
      {!e.picture &&
        (["zenith", "horizon", "ground"] as const).map((k) => (
          <ColorField
            key={k}
            label={{ zenith: "Straight up", horizon: "Level", ground: "Straight down" }[k]}
            value={fromLinear(e[k])}
            onChange={(c) => sky({ [k]: toLinear(c) })}
          />
        ))}
    </Section>
  );
}
