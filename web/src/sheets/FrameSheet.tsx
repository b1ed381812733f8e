import * as THREE from "three";
import { useEdits } from "../api/queries";
import type { Lens, Part, ShotReply } from "../api/types.gen";
import { Pick, Row, TextField, Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { useUi } from "../state/ui";
import { Coming, Section } from "./Sheet";

const formats = [
  { value: "1080x1080", name: "Square", note: "1080 × 1080" },
  { value: "1920x1080", name: "Wide", note: "1920 × 1080" },
  { value: "3840x2160", name: "Wide, 4K", note: "3840 × 2160" },
  { value: "1080x1920", name: "Phone, upright", note: "1080 × 1920" },
  { value: "1080x1350", name: "Portrait", note: "1080 × 1350" },
];

export function FrameSheet({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const { width, height } = shot.document.format;
  const guides = useUi((s) => s.guides);
  const camera = shot.document.parts.find((p) => p.id === shot.document.camera);
  const format = (w: number, h: number) => void edit({ setPicture: { format: { width: w, height: h } } });
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
      {camera?.camera ? (
        <CameraFields shot={shot} part={camera} lens={camera.camera} />
      ) : (
        <Section title="Camera">
          <p className="text-coral">The shot has no camera. Undo its removal to render.</p>
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
      <Coming>Several angles to compare, flights and depth of field are going to be here.</Coming>
    </>
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

function CameraFields({ shot, part, lens }: { shot: ShotReply; part: Part; lens: Lens }) {
  const { edit } = useEdits();
  const set = (l: Partial<Lens>, rest: Partial<Part["rest"]> = {}) =>
    void edit({ setPart: { part: { ...part, rest: { ...part.rest, ...rest }, camera: { ...lens, ...l } } } });
  const { round, above } = bearing(part.rest.rotation);
  const look = (r: number, a: number) => {
    const q = new THREE.Quaternion().setFromEuler(
      new THREE.Euler(-a * 2 * Math.PI, r * 2 * Math.PI, 0, "YXZ"),
    );
    set({}, { rotation: [q.x, q.y, q.z, q.w] });
  };
  const v = shot.view;
  return (
    <>
      <Section
        title={
          <TextField
            bare
            label="Name of the camera"
            value={part.name}
            onChange={(name) => void edit({ setPart: { part: { ...part, name } } })}
          />
        }
        note="in use · locked"
      >
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
          above, through a lens of{" "}
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
          />
          {lens.fitted ? " at the distance that keeps " : ", placed by hand, to keep "}
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
        {v && (
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
