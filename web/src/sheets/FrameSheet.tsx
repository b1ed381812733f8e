import * as THREE from "three";
import { setPart, setPicture } from "../api/edits";
import { useKinds } from "../api/kinds";
import { useEdits } from "../api/queries";
import type { Lens, Part, ShotReply } from "../api/types.gen";
import { Pick, Row, TextField, Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { useUi } from "../state/ui";
import { AnglesSection } from "./AnglesSection";
import { CamerasSection } from "./CamerasSection";
import { Section } from "./Section";

export function FrameSheet({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const { width, height } = shot.document.format;
  const guides = useUi((s) => s.guides);
  const formats = (useKinds()?.formats ?? []).map((f) => ({
    value: `${f.width}x${f.height}`,
    name: f.name,
    note: `${f.width} × ${f.height}`,
  }));
  const selected = useUi((s) => s.selected);
  const cameras = shot.document.parts.filter((p) => p.camera);
  const camera = cameras.find((p) => p.id === selected) ?? cameras.find((p) => p.id === shot.document.camera);
  const format = (w: number, h: number) => void edit(setPicture({ format: { width: w, height: h } }));
  const now = `${width}x${height}`;
  return (
    <>
      <Section title="Format">
        <Pick
          label="Shape"
          value={now}
          choices={
            formats.some((f) => f.value === now)
              ? formats
              : [...formats, { value: now, name: `${width} × ${height}` }]
          }
          onChange={(v) => {
            const [w, h] = v.split("x").map(Number) as [number, number];
            format(w, h);
          }}
        />
        <NumberField
          label="Width"
          value={width}
          kind="number"
          unit=""
          digits={0}
          whole
          min={1}
          max={16384}
          onChange={(w) => format(Math.round(w), height)}
        />
        <NumberField
          label="Height"
          value={height}
          kind="number"
          unit=""
          digits={0}
          whole
          min={1}
          max={16384}
          onChange={(h) => format(width, Math.round(h))}
        />
      </Section>
      <CamerasSection shot={shot} camera={camera} />
      <AnglesSection shot={shot} />
      {camera?.camera ? (
        <CameraFields shot={shot} part={camera} lens={camera.camera} />
      ) : (
        <Section title="Camera">
          <p className="text-coral">
            The shot has no camera in use. Add one above, or use one that is there.
          </p>
        </Section>
      )}
      <Section title="Guides">
        {(["margins", "thirds", "centre"] as const).map((g) => (
          <Toggle
            key={g}
            label={{ margins: "Margins", thirds: "Thirds", centre: "Centre" }[g]}
            on={guides[g]}
            onChange={(on) => useUi.setState({ guides: { ...guides, [g]: on } })}
          />
        ))}
      </Section>
    </>
  );
}

/** What the opening makes of depth, as photographic handbooks have it: sharp to a 1500th of the sensor's diagonal. */
function DepthOfField({ lens }: { lens: Lens }) {
  const f = lens.focal;
  const circle = Math.hypot(lens.sensorWidth, lens.sensorHeight) / 1500;
  const hyperfocal = (f * f) / (lens.fNumber! * circle) + f;
  const d = (lens.focus ?? 0) * 1000;
  const show = (mm: number) => (mm >= 1000 ? `${(mm / 1000).toFixed(2)} m` : `${mm.toFixed(1)} mm`);
  const far = hyperfocal - f - (d - f);
  return (
    <p className="text-[11px] text-quiet">
      Hyperfocal distance {show(hyperfocal)}
      {!lens.focusOn && d > f && (
        <>
          ; sharp from {show((d * (hyperfocal - f)) / (hyperfocal + d - 2 * f))} to{" "}
          {far > 0 ? show((d * (hyperfocal - f)) / far) : "any distance"}
        </>
      )}
      , to a circle of {circle.toFixed(3)} mm. Seen in test frames and runs, not in the picture here.
    </p>
  );
}

/** Where a camera looks from: degrees round from the front and degrees above the level. */
function bearing(q: Part["rest"]["rotation"]): { round: number; above: number } {
  const back = new THREE.Vector3(0, 0, 1).applyQuaternion(new THREE.Quaternion(...q));
  return {
    round: Math.atan2(back.x, back.z) / (2 * Math.PI),
    above: Math.asin(Math.min(1, Math.max(-1, back.y))) / (2 * Math.PI),
  };
}

/** How wide the picture is at the middle of the room as the camera sees it now, metres. */
function across(shot: ShotReply, part: Part): number {
  const away = Math.hypot(...(part.rest.position as [number, number, number]));
  return Math.max(0.001, 2 * (shot.view?.width ?? 0.36) * (away || 1));
}

function CameraFields({ shot, part, lens }: { shot: ShotReply; part: Part; lens: Lens }) {
  const { edit } = useEdits();
  const set = (l: Partial<Lens>, rest: Partial<Part["rest"]> = {}) =>
    void edit(setPart(part.id, { rest, camera: l }));
  const { round, above } = bearing(part.rest.rotation);
  const look = (r: number, a: number) => {
    const q = new THREE.Quaternion().setFromEuler(
      new THREE.Euler(-a * 2 * Math.PI, r * 2 * Math.PI, 0, "YXZ"),
    );
    set({}, { rotation: [q.x, q.y, q.z, q.w] });
  };
  const v = shot.optics[part.id];
  return (
    <>
      <Section
        title={
          <TextField
            bare
            label="Name of the camera"
            value={part.name}
            onChange={(name) => void edit(setPart(part.id, { name }))}
          />
        }
        note={[part.id === shot.document.camera && "in use", part.locked && "locked"]
          .filter(Boolean)
          .join(" · ")}
      >
        <Toggle
          label="Locked"
          on={part.locked ?? false}
          onChange={(locked) => void edit({ flag: { parts: [part.id], locked } })}
        />
        {part.locked && (
          <p className="mb-1 text-[11px] text-brass">
            It is locked, so that nothing nudges it: its place and lens are closed until you unlock it.
          </p>
        )}
        <fieldset disabled={part.locked} className="disabled:opacity-60">
          <p className="text-[13px] leading-[27px]">
            It looks from{" "}
            <NumberField
              inline
              label="Degrees round"
              value={round}
              kind="angle"
              unit="°"
              digits={2}
              onChange={(r) => look(r, above)}
            />{" "}
            round and{" "}
            <NumberField
              inline
              label="Degrees above"
              value={above}
              kind="angle"
              unit="°"
              digits={2}
              min={-89.9 / 360}
              max={89.9 / 360}
              onChange={(a) => look(round, a)}
            />{" "}
            above,{" "}
            {lens.across ? (
              "along parallel lines, "
            ) : (
              <>
                through a lens of{" "}
                <NumberField
                  inline
                  label="Focal length"
                  value={lens.focal}
                  kind="millimetres"
                  unit="mm"
                  digits={2}
                  min={1}
                  max={5000}
                  onChange={(focal) => set({ focal })}
                />{" "}
              </>
            )}
            {lens.fitted
              ? lens.across
                ? "as wide as keeps "
                : "at the distance that keeps "
              : "placed by hand, to keep "}
            <NumberField
              inline
              label="Margin"
              value={lens.margin}
              kind="percent"
              unit="%"
              digits={2}
              min={0}
              max={45}
              onChange={(margin) => set({ margin })}
            />{" "}
            clear on every side, on every frame.
          </p>
          <Toggle label="Kept fitted" on={lens.fitted} onChange={(fitted) => set({ fitted })} />
          {lens.fitted && part.moves.some((m) => m.flight && !m.muted) && (
            <p className="text-[11px] text-quiet">
              A flight goes through its places as they were saved; it is not fitted. Check says what it cuts
              off.
            </p>
          )}
          {lens.fitted && lens.offset?.some((v) => v !== 0) && (
            <p className="text-[11px] text-quiet">
              It moves, and is fitted once for the whole move: {(lens.offset[2]! * 1000).toFixed(1)} mm{" "}
              {lens.offset[2]! < 0 ? "nearer" : "further back"} than its move alone, so that the framing is
              steady.
            </p>
          )}
          <Toggle
            label="Orthographic"
            on={(lens.across ?? 0) > 0}
            onChange={(on) => set({ across: on ? across(shot, part) : undefined })}
          />
          {(lens.across ?? 0) > 0 ? (
            !lens.fitted && (
              <NumberField
                label="Width of the picture"
                value={lens.across!}
                kind="length"
                unit="mm"
                digits={1}
                step={10}
                min={0.00001}
                onChange={(across) => set({ across })}
              />
            )
          ) : (
            <>
              <NumberField
                label="Shift to the right"
                value={lens.shiftX ?? 0}
                kind="millimetres"
                unit="mm"
                digits={2}
                onChange={(shiftX) => set({ shiftX })}
              />
              <NumberField
                label="Shift upwards"
                value={lens.shiftY ?? 0}
                kind="millimetres"
                unit="mm"
                digits={2}
                onChange={(shiftY) => set({ shiftY })}
              />
            </>
          )}
          <NumberField
            label="Shutter"
            value={(lens.shutter ?? 0) / 360}
            kind="angle"
            unit="°"
            digits={1}
            min={0}
            max={1}
            onChange={(v) => set({ shutter: v * 360 })}
          />
          {!lens.across && (
            <NumberField
              label="f-number, 0 for all sharp"
              value={lens.fNumber ?? 0}
              kind="number"
              digits={2}
              step={0.5}
              min={0}
              max={1000}
              onChange={(fNumber) => set({ fNumber })}
            />
          )}
          {(lens.fNumber ?? 0) > 0 && !lens.across && (
            <>
              <Pick
                label="Sharp"
                value={lens.focusOn ?? ""}
                choices={[
                  { value: "", name: "at a distance" },
                  ...shot.document.parts
                    .filter((p) => !p.camera && !p.light && p.kind !== "floor")
                    .slice(0, 150)
                    .map((p) => ({ value: p.id, name: p.name })),
                ]}
                onChange={(focusOn) =>
                  set({ focusOn: focusOn || undefined, ...(focusOn ? { focus: 0 } : {}) })
                }
              />
              <NumberField
                label={lens.focusOn ? "Beyond its pivot by" : "Distance that is sharp"}
                value={lens.focus ?? 0}
                kind="length"
                unit="mm"
                digits={1}
                step={10}
                min={lens.focusOn ? undefined : 0}
                onChange={(focus) => set({ focus })}
              />
              <NumberField
                label="Blades, 0 for round"
                value={lens.blades ?? 0}
                kind="number"
                digits={0}
                whole
                min={0}
                max={32}
                onChange={(v) => set({ blades: Math.round(v) })}
              />
              <DepthOfField lens={lens} />
            </>
          )}
          <NumberField
            label="Exposure, stops"
            value={lens.exposure ?? 0}
            kind="number"
            digits={2}
            step={0.5}
            min={-32}
            max={32}
            onChange={(exposure) => set({ exposure })}
          />
          <Pick
            label="Sensor fills the"
            value={lens.sensor}
            choices={[
              { value: "longer", name: "longer side" },
              { value: "width", name: "width" },
              { value: "height", name: "height" },
            ]}
            onChange={(sensor) => set({ sensor })}
          />
          <NumberField
            label="Sensor width"
            value={lens.sensorWidth}
            kind="millimetres"
            unit="mm"
            digits={2}
            min={0.1}
            onChange={(sensorWidth) => set({ sensorWidth })}
          />
          <NumberField
            label="Sensor height"
            value={lens.sensorHeight}
            kind="millimetres"
            unit="mm"
            digits={2}
            min={0.1}
            onChange={(sensorHeight) => set({ sensorHeight })}
          />
        </fieldset>
        {v?.flat && (
          <Row label="Width and height">
            <span className="font-mono text-[12px]">
              {(v.width * 2000).toFixed(1)} × {(v.height * 2000).toFixed(1)} mm
            </span>
          </Row>
        )}
        {v && !v.flat && (
          <Row label="Field of view">
            <span className="font-mono text-[12px]">
              {((Math.atan(v.width) * 360) / Math.PI).toFixed(1)}° ×{" "}
              {((Math.atan(v.height) * 360) / Math.PI).toFixed(1)}°
            </span>
          </Row>
        )}
      </Section>
    </>
  );
}
