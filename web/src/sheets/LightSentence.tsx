import { Crosshair } from "lucide-react";
import { setPart } from "../api/edits";
import { useKinds } from "../api/kinds";
import { useEdits } from "../api/queries";
import type { LightPlace, LightSpec, Part, ShotReply } from "../api/types.gen";
import { Button, Pick, TextField } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { clock } from "../state/clock";
import { useUi } from "../state/ui";
import { usePicked } from "../views/pick";
import { fromLinear, toLinear } from "./srgb";
import { Swatch } from "./words";

/** The kinds of lights as choices. */
export const useLightKinds = () =>
  (useKinds()?.lights ?? []).map((k) => ({ value: k.kind ?? "", name: k.name }));

/** Parts that something can be bound to or aimed at, as choices. */
export function partChoices(shot: ShotReply, suits: (p: Part) => boolean, must?: string) {
  const list = shot.document.parts.filter(suits);
  const some = list.slice(0, 150);
  const held = must && !some.some((p) => p.id === must) ? list.find((p) => p.id === must) : undefined;
  return (held ? [...some, held] : some).map((p) => ({ value: p.id, name: p.name }));
}

const length = { kind: "length", unit: "mm", digits: 1, step: 10, min: 0.00001 } as const;

/** A light as a sentence whose words are its controls. */
export function LightSentence({ shot, part, place }: { shot: ShotReply; part: Part; place?: LightPlace }) {
  const { edit } = useEdits();
  const l = part.light!;
  const set = (change: Partial<LightSpec>) => void edit(setPart(part.id, { light: change }));
  const stand = (change: { left?: number; high?: number; distance?: number; aim?: string }) =>
    void edit({ placeLight: { part: part.id, ...change } });
  const kind = l.kind ?? "";
  const kinds = useLightKinds();
  const camera = shot.document.camera;
  const left = place?.left ?? 0;
  return (
    <>
      <TextField
        bare
        label="Name of the light"
        value={part.name}
        onChange={(name) => void edit(setPart(part.id, { name }))}
      />
      <p className="text-[13px] leading-[27px]">
        is a{" "}
        <Pick
          inline
          label="Kind"
          value={kind}
          choices={kinds}
          onChange={(k) => set({ kind: k as LightSpec["kind"] })}
        />{" "}
        {kind === "" && (
          <>
            of{" "}
            <NumberField
              inline
              label="Width"
              {...length}
              value={l.width ?? 0}
              onChange={(width) => set({ width })}
            />{" "}
            by{" "}
            <NumberField
              inline
              label="Height"
              {...length}
              value={l.height ?? 0}
              onChange={(height) => set({ height })}
            />
          </>
        )}
        {(kind === "disc" || kind === "bulb" || kind === "spot") && (
          <>
            <NumberField
              inline
              label="Diameter"
              {...length}
              value={2 * (l.radius ?? 0)}
              onChange={(v) => set({ radius: v / 2 })}
            />{" "}
            across
          </>
        )}
        {kind === "sun" && (
          <>
            <NumberField
              inline
              label="Across, as seen"
              kind="angle"
              unit="°"
              digits={2}
              min={0.01 / 360}
              max={89 / 360}
              value={(l.angle ?? 0) / (2 * Math.PI)}
              onChange={(v) => set({ angle: v * 2 * Math.PI })}
            />{" "}
            across
          </>
        )}
        {kind === "spot" && (
          <>
            , full within{" "}
            <NumberField
              inline
              label="Full within"
              kind="angle"
              unit="°"
              digits={1}
              min={0}
              max={(l.outer ?? 0.5) / (2 * Math.PI)}
              value={(l.inner ?? 0) / (2 * Math.PI)}
              onChange={(v) => set({ inner: v * 2 * Math.PI })}
            />{" "}
            and dark beyond{" "}
            <NumberField
              inline
              label="Dark beyond"
              kind="angle"
              unit="°"
              digits={1}
              min={(l.inner ?? 0) / (2 * Math.PI)}
              max={0.25}
              value={(l.outer ?? 0.5) / (2 * Math.PI)}
              onChange={(v) => set({ outer: v * 2 * Math.PI })}
            />
          </>
        )}
        , <Stops label="Strength" value={l.strength} onChange={(strength) => set({ strength })} />,{" "}
        <Pick
          inline
          label="White or a colour"
          value={l.temperature ? "white" : "colour"}
          choices={[
            { value: "white", name: "white of" },
            { value: "colour", name: "coloured" },
          ]}
          onChange={(v) => set({ temperature: v === "white" ? 5600 : undefined })}
        />{" "}
        {l.temperature ? (
          <NumberField
            inline
            label="Colour temperature"
            kind="number"
            unit="K"
            digits={0}
            step={100}
            min={1667}
            max={25000}
            value={l.temperature}
            onChange={(temperature) => set({ temperature })}
          />
        ) : (
          <Swatch
            label="Colour of the light"
            value={fromLinear(l.color)}
            onChange={(c) => set({ color: toLinear(c) })}
          />
        )}
        , {kind === "sun" ? "from" : "standing"}{" "}
        <NumberField
          inline
          label={left < 0 ? "Degrees right of the front" : "Degrees left of the front"}
          kind="angle"
          unit="°"
          digits={1}
          min={-1}
          max={1}
          value={Math.abs(left) / (2 * Math.PI)}
          onChange={(v) => stand({ left: (left < 0 ? -1 : 1) * v * 2 * Math.PI })}
        />{" "}
        <Pick
          inline
          label="Side"
          value={left < 0 ? "right" : "left"}
          choices={[
            { value: "left", name: "left" },
            { value: "right", name: "right" },
          ]}
          onChange={(v) =>
            v !== (left < 0 ? "right" : "left") && stand({ left: -left || (v === "right" ? -0.01 : 0.01) })
          }
        />{" "}
        and{" "}
        <NumberField
          inline
          label="Degrees high"
          kind="angle"
          unit="°"
          digits={1}
          min={-0.25}
          max={0.25}
          value={(place?.high ?? 0) / (2 * Math.PI)}
          onChange={(v) => stand({ high: v * 2 * Math.PI })}
        />{" "}
        high
        {kind !== "sun" && (
          <>
            ,{" "}
            <NumberField
              inline
              label="Distance"
              {...length}
              value={place?.distance ?? 0}
              onChange={(distance) => stand({ distance })}
            />{" "}
            from{" "}
            <Pick
              inline
              label="Aimed at"
              value={l.aim ?? ""}
              choices={[
                { value: "", name: "the middle of all" },
                ...partChoices(
                  shot,
                  (p) => !p.light && !p.camera && p.kind !== "floor" && p.kind !== "cutter",
                  l.aim,
                ),
              ]}
              onChange={(aim) => stand({ aim })}
            />
          </>
        )}
        , bound to{" "}
        <Pick
          inline
          label="Bound to"
          value={part.parent}
          choices={[
            { value: "", name: "the room", note: "the object turns in its light" },
            ...(camera
              ? [{ value: camera, name: "the camera in use", note: "it goes with the camera" }]
              : []),
            ...partChoices(
              shot,
              (p) => p.id !== camera && !p.light && p.kind !== "floor" && p.kind !== "cutter",
              part.parent,
            ),
          ]}
          onChange={(parent) => void edit({ putIn: { parts: [part.id], parent, before: "", keep: true } })}
        />
        .
      </p>
      <PutByPressing part={part} />
    </>
  );
}

/** Puts a light by where its highlight or its shadow is wanted. */
function PutByPressing({ part }: { part: Part }) {
  const { edit } = useEdits();
  const picking = useUi((s) => s.picking);
  usePicked("highlight", (p) => {
    useUi.setState({ picking: null });
    void edit({
      highlight: { part: part.id, point: p.point.toArray(), normal: p.smooth.toArray(), frame: clock.frame },
    });
  });
  usePicked("shadow", (p) => {
    useUi.setState({ picking: null });
    void edit({ shadowAt: { part: part.id, point: p.point.toArray(), frame: clock.frame } });
  });
  return (
    <div className="mt-1 flex flex-wrap gap-1.5">
      <Button
        primary={picking === "highlight"}
        title="Then press on the object, in the picture or the bench: the light moves so that it is mirrored there"
        onClick={() => useUi.setState({ picking: picking === "highlight" ? null : "highlight" })}
      >
        <Crosshair size={13} /> Put its highlight…
      </Button>
      <Button
        primary={picking === "shadow"}
        title="Then press where the shadow of what it lights is to fall"
        onClick={() => useUi.setState({ picking: picking === "shadow" ? null : "shadow" })}
      >
        <Crosshair size={13} /> Put its shadow…
      </Button>
      {(picking === "highlight" || picking === "shadow") && (
        <p className="w-full text-[11px] text-verdigris" role="status">
          {picking === "highlight"
            ? "Press on the object where the highlight is to be. Escape leaves it."
            : "Press on the floor where the shadow is to fall. Escape leaves it."}
        </p>
      )}
    </div>
  );
}

/** A strength, in stops over a radiance of 1: each stop is twice the light. */
export function Stops(p: { label: string; value: number; onChange: (v: number) => void }) {
  return (
    <NumberField
      inline
      label={p.label}
      kind="number"
      unit="stops"
      digits={2}
      step={0.5}
      min={-20}
      max={29}
      value={p.value > 0 ? Math.log2(p.value) : -20}
      onChange={(v) => p.onChange(v <= -20 ? 0 : 2 ** v)}
    />
  );
}
