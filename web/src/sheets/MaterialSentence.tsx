import { useState } from "react";
import { patchOf } from "../api/edits";
import { useKinds } from "../api/kinds";
import { useEdits } from "../api/queries";
import type { Material, ShotReply } from "../api/types.gen";
import { ColorField, Pick, TextField, toHex } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { fromLinear, toLinear } from "./srgb";
import { Swatch } from "./words";

/** Fields that a preset gives a material: all but its name and its pictures. */
function valuesOf(m: Material): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(m).filter(([k]) => k !== "id" && k !== "name" && !k.endsWith("Texture")),
  );
}

/** Which preset a material is, but for its colour, or null. */
function usePreset(m: Material): string | null {
  const key = (x: Material) =>
    JSON.stringify(
      Object.entries(valuesOf(x))
        .filter(([k]) => k !== "baseColor")
        .sort(([a], [b]) => (a < b ? -1 : 1)),
    );
  const mine = key(m);
  return useKinds()?.presets.find((p) => key(p.material) === mine)?.name ?? null;
}

function useSet(m: Material) {
  const { edit } = useEdits();
  return (change: Partial<Material>) =>
    void edit({ setMaterial: { material: m.id, patch: patchOf(change) } });
}

const share = { kind: "percent", unit: "%", digits: 1, min: 0, max: 100 } as const;

/** A material as a sentence: "Paint is satin paint, blue, 38 % rough, no coat; it is on 7 parts." */
export function MaterialSentence({
  material: m,
  parts,
}: {
  shot: ShotReply;
  material: Material;
  parts: number;
}) {
  const set = useSet(m);
  const presets = useKinds()?.presets ?? [];
  const preset = usePreset(m);
  const colour = fromLinear(m.baseColor.slice(0, 3) as [number, number, number]);
  return (
    <div className="min-w-0 flex-1">
      <TextField bare label="Name of the material" value={m.name} onChange={(name) => set({ name })} />
      <p className="text-[13px] leading-[26px]">
        is{" "}
        <Pick
          inline
          label="Made of"
          value={preset ?? ""}
          choices={[
            ...(preset ? [] : [{ value: "", name: "a material of its own" }]),
            ...presets.map((p) => ({ value: p.name, name: p.name })),
          ]}
          onChange={(name) => {
            const p = presets.find((x) => x.name === name);
            if (!p) return;
            const none = Object.fromEntries(Object.keys(valuesOf(m)).map((k) => [k, null]));
            set({ ...none, ...valuesOf(p.material) } as Partial<Material>);
          }}
        />
        ,{" "}
        <Swatch
          label="Colour"
          value={colour}
          onChange={(c) => set({ baseColor: [...toLinear(c), m.baseColor[3]] })}
        />{" "}
        <span className="font-mono text-[11px] text-quiet">{toHex(colour)}</span>,{" "}
        <NumberField
          inline
          label="Roughness"
          {...share}
          value={m.roughness * 100}
          onChange={(v) => set({ roughness: v / 100 })}
        />{" "}
        rough,{" "}
        <NumberField
          inline
          label="Metal"
          {...share}
          value={m.metallic * 100}
          onChange={(v) => set({ metallic: v / 100 })}
        />{" "}
        metal, with{" "}
        <Pick
          inline
          label="Coat"
          value={(m.clearcoat ?? 0) > 0}
          choices={[
            { value: false, name: "no coat" },
            { value: true, name: "a coat" },
          ]}
          onChange={(on) => set({ clearcoat: on ? 1 : undefined, clearcoatRoughness: on ? 0.04 : undefined })}
        />
        ; it is on {parts === 1 ? "1 part" : parts === 0 ? "nothing" : `${parts} parts`}.
      </p>
    </div>
  );
}

/** What kind of glass a material is, as one word. */
const glass = (m: Material) => (!m.transmission ? "none" : m.thickness ? "solid" : "thin");
const black: [number, number, number] = [0, 0, 0];

/** The rarer numbers of a material, one press away. */
export function MaterialNumbers({ material: m }: { material: Material }) {
  const set = useSet(m);
  const [open, setOpen] = useState(false);
  const glow = Math.max(...m.emissive);
  const unit = (c: [number, number, number]) => (glow > 0 ? (c.map((v) => v / glow) as typeof c) : c);
  return (
    <>
      <button
        type="button"
        aria-expanded={open}
        className="mt-1 text-[11px] text-quiet underline hover:text-ink"
        onClick={() => setOpen(!open)}
      >
        {open ? "Fewer numbers" : "Glass, coat, cloth, glow…"}
      </button>
      {open && (
        <div className="mt-1">
          <Pick
            label="Glass"
            value={glass(m)}
            choices={[
              { value: "none", name: "none" },
              { value: "thin", name: "a thin sheet" },
              { value: "solid", name: "a solid body" },
            ]}
            onChange={(v) =>
              set(
                v === "none"
                  ? {
                      transmission: undefined,
                      thickness: undefined,
                      attenuationDistance: undefined,
                      attenuationColor: undefined,
                    }
                  : { transmission: m.transmission || 1, thickness: v === "solid" ? 0.01 : undefined },
              )
            }
          />
          {m.transmission ? (
            <>
              <NumberField
                label="Lets through"
                {...share}
                value={m.transmission * 100}
                onChange={(v) => set({ transmission: v / 100 })}
              />
              <NumberField
                label="Index of refraction"
                kind="number"
                digits={3}
                step={0.01}
                min={1}
                max={3}
                value={m.ior || 1.5}
                onChange={(ior) => set({ ior })}
              />
            </>
          ) : (
            <NumberField
              label="Shine"
              {...share}
              value={(m.specular ?? 1) * 100}
              onChange={(v) => set({ specular: v === 100 ? undefined : v / 100 })}
            />
          )}
          {m.thickness ? (
            <>
              <NumberField
                label="Half of the light is taken in"
                kind="length"
                unit="mm"
                digits={2}
                min={0}
                value={(m.attenuationDistance ?? 0) * Math.LN2}
                onChange={(v) =>
                  set({
                    attenuationDistance: v > 0 ? v / Math.LN2 : undefined,
                    attenuationColor: v > 0 ? (m.attenuationColor ?? [0.5, 0.5, 0.5]) : undefined,
                  })
                }
              />
              {m.attenuationDistance ? (
                <ColorField
                  label="Tint"
                  value={fromLinear(m.attenuationColor ?? [1, 1, 1])}
                  onChange={(c) => set({ attenuationColor: toLinear(c) })}
                />
              ) : null}
            </>
          ) : null}
          <NumberField
            label="Coat"
            {...share}
            value={(m.clearcoat ?? 0) * 100}
            onChange={(v) => set({ clearcoat: v > 0 ? v / 100 : undefined })}
          />
          {m.clearcoat ? (
            <NumberField
              label="Roughness of the coat"
              {...share}
              value={(m.clearcoatRoughness ?? 0) * 100}
              onChange={(v) => set({ clearcoatRoughness: v / 100 })}
            />
          ) : null}
          <ColorField
            label="Bright rim of cloth"
            value={fromLinear(m.sheenColor ?? black)}
            onChange={(c) => set({ sheenColor: c.some((v) => v > 0) ? toLinear(c) : undefined })}
          />
          {m.sheenColor ? (
            <NumberField
              label="Softness of the rim"
              {...share}
              value={(m.sheenRoughness ?? 0) * 100}
              onChange={(v) => set({ sheenRoughness: v / 100 })}
            />
          ) : null}
          <NumberField
            label="Glow"
            kind="number"
            digits={2}
            step={0.5}
            min={0}
            max={10000}
            value={glow}
            onChange={(v) => {
              const c = glow > 0 ? unit(m.emissive) : ([1, 1, 1] as typeof m.emissive);
              set({ emissive: c.map((x) => x * v) as typeof m.emissive });
            }}
          />
          {glow > 0 && (
            <ColorField
              label="Colour of the glow"
              value={fromLinear(unit(m.emissive))}
              onChange={(c) => {
                const l = toLinear(c);
                const top = Math.max(...l) || 1;
                set({ emissive: l.map((v) => (v / top) * glow) as typeof m.emissive });
              }}
            />
          )}
          <NumberField
            label="Opacity"
            {...share}
            value={m.baseColor[3] * 100}
            onChange={(v) =>
              set({
                baseColor: [m.baseColor[0], m.baseColor[1], m.baseColor[2], v / 100],
                alphaMode:
                  v < 100 ? "BLEND" : m.baseColorTexture && m.alphaMode !== "OPAQUE" ? m.alphaMode : "OPAQUE",
              })
            }
          />
          {m.normalTexture && (
            <NumberField
              label="Strength of the normals"
              {...share}
              max={1000}
              value={(m.normalScale ?? 1) * 100}
              onChange={(v) => set({ normalScale: v / 100 })}
            />
          )}
          {m.occlusionTexture && (
            <NumberField
              label="Strength of the occlusion"
              {...share}
              value={(m.occlusionStrength ?? 1) * 100}
              onChange={(v) => set({ occlusionStrength: v / 100 })}
            />
          )}
          <Pick
            label="Backs"
            value={m.oneSided ? "through" : "shown"}
            choices={[
              { value: "shown", name: "shown" },
              { value: "through", name: "seen through" },
            ]}
            onChange={(v) => set({ oneSided: v === "through" || undefined })}
          />
        </div>
      )}
    </>
  );
}
