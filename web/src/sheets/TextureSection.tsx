import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useState } from "react";
import { create } from "zustand";
import { api, uploadTextures } from "../api/client";
import { client, keys, useEdits, renew } from "../api/queries";
import type { ShotReply, Texture, Textured } from "../api/types.gen";
import { Button, Pick } from "../fields/controls";
import { Windowed } from "../fields/Windowed";
import { choose, isPicture } from "../screen/files";
import { say } from "../state/notices";
import { useUi } from "../state/ui";
import { Section } from "./Section";
import { slots, slotsOf, texturesOf } from "./textureSlots";

/** What became of the pictures that were brought last. */
const useLast = create<{ shot: string | null; got: Textured | null }>(() => ({ shot: null, got: null }));

/** Brings pictures to the materials of the open shot, those of the selected parts first. */
export async function bringTextures(files: File[]) {
  const { shot: id, chosen } = useUi.getState();
  const shot = id === null ? undefined : client.getQueryData<ShotReply>(keys.shot(id));
  if (id === null || !shot || files.length === 0) return;
  const inside = new Set(chosen);
  const materials = new Set<string>();
  for (const p of shot.document.parts) {
    if (inside.has(p.parent)) inside.add(p.id);
    if (inside.has(p.id)) p.materials?.forEach((m) => m && materials.add(m));
  }
  try {
    const got = await uploadTextures(id, files, [...materials]);
    useLast.setState({ shot: id, got });
    await renew(keys.shot(id));
    const placed = `${got.placed.length} ${got.placed.length === 1 ? "texture was" : "textures were"} placed`;
    if (got.left.length > 0)
      say(`${placed}, and ${got.left.length} of the files left. Bring in says where and why.`);
    useUi.setState({ step: "Bring in" });
  } catch (e) {
    say((e as Error).message);
  }
}

/** The textures of a material in their slots, where they can be dragged from one to another. */
export function TextureSection({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const d = shot.document;
  const chosen = useUi((s) => s.chosen);
  const [picked, setPicked] = useState<string | null>(null);
  const last = useLast((s) => (s.shot === shot.id ? s.got : null));
  const [over, setOver] = useState<string | null>(null);
  const doubts = useQuery({
    queryKey: ["triage", shot.id, shot.version],
    queryFn: () => api.triage(shot.id),
    placeholderData: (p) => p,
  }).data?.doubts;
  const used = new Set(d.parts.filter((p) => p.mesh).flatMap((p) => p.materials ?? []));
  const list = d.materials.filter((m) => used.has(m.id));
  if (list.length === 0) return null;
  const ofSelected = d.parts.find((p) => chosen.includes(p.id) && p.mesh)?.materials?.[0];
  const m =
    list.find((o) => o.id === (ofSelected ?? picked)) ??
    list.find((o) => texturesOf(o).length > 0) ??
    list[0]!;
  const missing = list.flatMap((o) =>
    texturesOf(o).flatMap(([name, t]) =>
      t.missing ? [{ file: t.missing, where: `${name} of ${o.name}` }] : [],
    ),
  );
  const bring = (folder: boolean) =>
    choose(".png,.jpg,.jpeg,.webp,.tif,.tiff,.bmp,.zip", folder, (files) =>
      bringTextures(folder ? files.filter(isPicture) : files),
    );
  return (
    <Section title="Textures" note={missing.length > 0 ? `${missing.length} missing` : undefined}>
      {missing.length > 0 && (
        <div className="mb-2">
          <Windowed rows={missing} height={20} most={112} label="Missing textures">
            {(x) => (
              <li key={x.file + x.where} title={x.where} className="h-[20px] truncate text-coral">
                {x.file} <span className="text-[11px] text-quiet">{x.where}</span>
              </li>
            )}
          </Windowed>
          <p className="mt-1 text-[11px] text-quiet">
            Point to the folder that they are in; they are found by their names.
          </p>
        </div>
      )}
      {list.length > 1 && (
        <Pick
          label="Material"
          value={m.id}
          choices={[...new Set([m, ...list.slice(0, 200)])].map((o) => ({
            value: o.id,
            name: o.name,
            note: String(texturesOf(o).length || ""),
          }))}
          onChange={(id) => {
            setPicked(id);
            useUi.setState({ chosen: [], selected: null });
          }}
        />
      )}
      <ul className="my-1.5 grid grid-cols-5 gap-1.5" aria-label={`Textures of ${m.name}`}>
        {slotsOf(m).map(([name, key]) => {
          const t = m[key] as Texture | null | undefined;
          const doubt = doubts?.find((x) => x.material === m.name && x.slot === name);
          return (
            <li key={key} className="min-w-0">
              <div
                draggable={!!t}
                title={
                  t ? (doubt ? `${doubt.file}: ${doubt.why}` : "Drag it to the slot where it belongs") : name
                }
                data-testid={`slot-${name}`}
                onDragStart={(e) => {
                  e.dataTransfer.setData("text/plain", name);
                  e.dataTransfer.effectAllowed = "move";
                }}
                onDragOver={(e) => {
                  if (e.dataTransfer.types.includes("Files")) return;
                  e.preventDefault();
                  setOver(name);
                }}
                onDragLeave={() => setOver(null)}
                onDrop={(e) => {
                  setOver(null);
                  if (e.dataTransfer.files.length > 0) return;
                  e.preventDefault();
                  const from = e.dataTransfer.getData("text/plain");
                  if (from !== name && slots.some(([s]) => s === from))
                    void edit({ texture: { material: m.id, slot: from, to: m.id, toSlot: name } });
                }}
                className={`relative aspect-square overflow-hidden rounded-sm border ${over === name ? "border-verdigris" : doubt ? "border-brass" : t?.missing ? "border-coral" : "border-line"} ${t ? "cursor-grab bg-ground" : "border-dashed"}`}
              >
                {t?.asset && (
                  <img
                    src={`/api/assets/${t.asset}/images/${t.image}`}
                    alt={`${name} of ${m.name}`}
                    draggable={false}
                    className="size-full object-cover"
                  />
                )}
                {t && (
                  <button
                    type="button"
                    aria-label={`Take out the ${name}`}
                    onClick={() => void edit({ texture: { material: m.id, slot: name } })}
                    className="absolute top-0 right-0 bg-ground/80 p-0.5 text-quiet opacity-0 hover:text-ink focus-visible:opacity-100 [:hover>&]:opacity-100"
                  >
                    <X size={10} />
                  </button>
                )}
              </div>
              <span
                className={`block truncate text-center text-[10px] ${doubt ? "text-brass" : "text-quiet"}`}
              >
                {{ "roughness and metal": "rough, metal", "base colour": "colour" }[name as string] ?? name}
              </span>
            </li>
          );
        })}
      </ul>
      <Pick
        label="Backs"
        value={m.oneSided ? "through" : "shown"}
        choices={[
          { value: "shown", name: "shown" },
          { value: "through", name: "seen through" },
        ]}
        onChange={(v) => void edit({ setMaterial: { material: m.id, patch: { oneSided: v === "through" } } })}
      />
      {!m.doubleSided && !m.oneSided && (
        <p className="mb-1 text-[11px] text-quiet">
          The file calls {m.name} single-sided. Its backs are shown all the same, so that no light falls in.
        </p>
      )}
      {doubts
        ?.filter((x) => x.material === m.name)
        .map((x) => (
          <p key={x.file + x.slot} className="mb-1 text-[11px] text-brass">
            {x.file} in {x.slot}: {x.why}.
          </p>
        ))}
      <div className="flex flex-wrap gap-1.5">
        <Button onClick={() => bring(false)}>Pictures…</Button>
        <Button onClick={() => bring(true)} primary={missing.length > 0}>
          Folder…
        </Button>
      </div>
      <p className="mt-1.5 text-[11px] text-quiet">
        Or drop them on the page. Names and pixels say what each is for.
        {list.length > 200 && " Select a part to come to its material; 200 of them are listed."}
      </p>
      {last && (
        <ul className="mt-2 max-h-36 space-y-0.5 overflow-auto text-[11px]" aria-label="Brought last">
          {last.placed.map((p) => (
            <li key={p.file + p.slot + p.material} className={p.doubt ? "text-brass" : ""}>
              {p.file} → {p.slot} of {p.material}: {p.why}
            </li>
          ))}
          {last.left.map((p) => (
            <li key={p.file} className="text-quiet">
              {p.file} left: {p.why}
            </li>
          ))}
        </ul>
      )}
    </Section>
  );
}
