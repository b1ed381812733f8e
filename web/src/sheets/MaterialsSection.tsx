import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { useEffect } from "react";
import { create } from "zustand";
import { useKinds } from "../api/kinds";
import { useEdits } from "../api/queries";
import type { Material, Preset, ShotReply } from "../api/types.gen";
import { Button, Toggle } from "../fields/controls";
import { Windowed } from "../fields/Windowed";
import { useUi } from "../state/ui";
import { MaterialNumbers, MaterialSentence } from "./MaterialSentence";
import { Section } from "./Section";
import { setPicture } from "../api/edits";

/** The material that is looked at, where one was picked from the list. */
export const usePickedMaterial = create<{ id: string | null }>(() => ({ id: null }));

/** A short name of what a value is, so that browsers ask for a picture again once it changes. */
export function hashOf(value: unknown): string {
  let h = 5381;
  for (const c of JSON.stringify(value)) h = (h * 33 + c.charCodeAt(0)) | 0;
  return (h >>> 0).toString(36);
}

export const sampleOf = (shot: string, m: Material) =>
  `/api/shots/${shot}/materials/picture?material=${encodeURIComponent(m.id)}&as=${hashOf(m)}`;

/** What the parts wear as they are shown, and how many parts wear each material. */
export function useWorn(shot: ShotReply) {
  const count = new Map<string, number>();
  const byPart = new Map<string, string[]>();
  shot.document.parts.forEach((p, i) => {
    const list = shot.document.clay ? (p.materials ?? []) : (shot.shown[i]?.materials ?? []);
    byPart.set(p.id, list);
    for (const m of new Set(list)) count.set(m, (count.get(m) ?? 0) + 1);
  });
  return { count, byPart };
}

/** The parts of a selection with all in them, that have a surface. */
function within(shot: ShotReply, chosen: string[]): string[] {
  const inside = new Set(chosen);
  const out: string[] = [];
  for (const p of shot.document.parts) {
    if (inside.has(p.parent)) inside.add(p.id);
    if (inside.has(p.id) && (p.mesh || p.shape || p.plinth || p.ground)) out.push(p.id);
  }
  return out;
}

/** The materials of the shot: which there are, what wears them, what they are. */
export function MaterialsSection({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const d = shot.document;
  const chosen = useUi((s) => s.chosen);
  const picked = usePickedMaterial((s) => s.id);
  useEffect(() => usePickedMaterial.setState({ id: null }), [chosen]);
  const { count, byPart } = useWorn(shot);
  const parts = within(shot, chosen);
  const worn = [...new Set(parts.flatMap((p) => byPart.get(p) ?? []))].filter(Boolean);
  const m =
    d.materials.find((x) => x.id === picked) ??
    d.materials.find((x) => worn.includes(x.id)) ??
    (parts.length === 0 ? d.materials[0] : undefined);
  const names = parts.length === 1 ? d.parts.find((p) => p.id === parts[0])!.name : `${parts.length} parts`;
  const other = m && parts.length > 0 && (worn.length !== 1 || worn[0] !== m.id);
  return (
    <Section
      title="Materials"
      note={parts.length > 0 ? (worn.length > 1 ? `mixed on ${names}` : `of ${names}`) : d.materials.length}
    >
      {d.materials.length === 0 && (
        <p className="mb-1 text-quiet">
          Everything is plain grey. Select a part and press Presets to give it a material.
        </p>
      )}
      <Windowed rows={d.materials} height={26} most={132} label="Materials" at={m && d.materials.indexOf(m)}>
        {(x) => (
          <li key={x.id} className="h-[26px]">
            <button
              type="button"
              aria-pressed={x === m}
              onClick={() => usePickedMaterial.setState({ id: x.id })}
              className={`flex h-full w-full items-center gap-2 rounded-sm px-1 text-left ${x === m ? "bg-verdigris/20" : "hover:bg-raised"}`}
            >
              <img src={sampleOf(shot.id, x)} alt="" className="size-[22px] rounded-full" />
              <span className="truncate">{x.name}</span>
              <span className="ml-auto shrink-0 text-[11px] text-quiet">
                {!count.get(x.id)
                  ? "on nothing"
                  : count.get(x.id) === 1
                    ? "1 part"
                    : `${count.get(x.id)} parts`}
              </span>
            </button>
          </li>
        )}
      </Windowed>
      <div className="my-1.5 flex flex-wrap gap-1.5">
        <Presets
          words={parts.length > 0 ? `Presets for ${names}…` : "Presets…"}
          title={
            parts.length > 0
              ? "A material to start from, on what is selected"
              : "Select a part to give it one of these"
          }
          onPick={
            parts.length > 0
              ? (p) =>
                  void edit({ wear: { parts: chosen, preset: p.name } }).then(() =>
                    usePickedMaterial.setState({ id: null }),
                  )
              : undefined
          }
        />
        {other && (
          <Button onClick={() => void edit({ wear: { parts: chosen, material: m.id } })}>
            Put it on {names}
          </Button>
        )}
      </div>
      {m && (
        <>
          <div className="mt-2 flex items-start gap-3">
            <img
              src={sampleOf(shot.id, m)}
              alt={`A ball of ${m.name}, rendered`}
              className="size-[72px] shrink-0 rounded-full"
            />
            <MaterialSentence shot={shot} material={m} parts={count.get(m.id) ?? 0} />
          </div>
          <MaterialNumbers material={m} />
          <div className="mt-1.5 flex flex-wrap gap-1.5">
            {parts.length > 0 && !other && (count.get(m.id) ?? 0) > parts.length && (
              <Button
                title="A copy of the material that can be changed without changing what else wears it"
                onClick={() => void edit({ wear: { parts: chosen, material: m.id, own: true } })}
              >
                A copy for {names} alone
              </Button>
            )}
            {!count.get(m.id) && (
              <Button onClick={() => void edit({ removeMaterial: { material: m.id } })}>Remove it</Button>
            )}
          </div>
        </>
      )}
      <Toggle
        label="All in clay"
        on={d.clay ?? false}
        onChange={(clay) => void edit(setPicture({ clay: clay || undefined }))}
      />
    </Section>
  );
}

/** The materials to start from, each as our renderer shows it. */
export function Presets(p: { words: string; title: string; onPick?: (p: Preset) => void }) {
  const presets = useKinds()?.presets ?? [];
  return (
    <Popover>
      <PopoverButton
        disabled={!p.onPick}
        title={p.title}
        className="inline-flex h-[26px] max-w-[280px] items-center truncate rounded-md border border-line bg-panel px-2.5 font-medium hover:bg-raised disabled:opacity-45"
      >
        {p.words}
      </PopoverButton>
      <PopoverPanel
        anchor="bottom start"
        className="z-50 grid w-[300px] grid-cols-4 gap-1 rounded-md border border-line bg-raised p-2 shadow-xl [--anchor-gap:4px]"
      >
        {({ close }) => (
          <>
            {presets.map((x) => (
              <button
                key={x.name}
                type="button"
                title={x.note}
                className="rounded-sm p-1 text-center hover:bg-verdigris/20"
                onClick={() => {
                  p.onPick?.(x);
                  close();
                }}
              >
                <img
                  src={`/api/presets/picture?name=${encodeURIComponent(x.name)}&as=${hashOf(x)}`}
                  alt=""
                  loading="lazy"
                  className="mx-auto size-[48px] rounded-full bg-ground"
                />
                <span className="block text-[11px] leading-tight">{x.name}</span>
              </button>
            ))}
          </>
        )}
      </PopoverPanel>
    </Popover>
  );
}
