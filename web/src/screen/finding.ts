import { takeApart } from "../api/apart";
import { newId } from "../api/ids";
import type { Edit, Kinds, ShotReply } from "../api/types.gen";
import { additions } from "../sheets/AddPart";
import { usePickedMaterial } from "../sheets/MaterialsSection";
import { goTo, select, useUi } from "../state/ui";
import type { Command } from "./keys";

interface Edits {
  edit: (...list: Edit[]) => Promise<boolean>;
  make: (...list: Edit[]) => Promise<boolean>;
}

/** What can be found by name beside the commands: what can be added, moves, materials, rigs, formats, parts and angles. */
export function findable(
  shot: ShotReply | undefined,
  kinds: Kinds | undefined,
  { edit, make }: Edits,
): Command[] {
  if (!shot || !kinds) return [];
  const { chosen, selected } = useUi.getState();
  const d = shot.document;
  const named = (name: string, run: () => void, find = ""): Command => ({ name, keys: "", find, run });
  const part = d.parts.find((p) => p.id === selected);
  return [
    ...additions(kinds, chosen).map((a) => {
      const about = kinds.shapes.find((s) => s.kind === a.name);
      return named(`Add a new ${a.name}`, () => void make(a.edit()), about?.find);
    }),
    ...(part
      ? kinds.moves.map((m) =>
          named(
            `Give ${part.name} the move ${m.kind}`,
            () => {
              goTo("Move");
              if (m.kind === "take apart") return void takeApart(shot, part.id, edit);
              void edit({ addMove: { part: part.id, kind: m.kind, id: newId() } });
            },
            `${m.note} ${m.find}`,
          ),
        )
      : []),
    ...(chosen.length > 0
      ? kinds.presets.map((p) =>
          named(
            `Dress what is selected in ${p.name}`,
            () => void edit({ wear: { parts: chosen, preset: p.name } }),
            `material colour ${p.note}`,
          ),
        )
      : []),
    ...kinds.rigs.map((r) =>
      named(`Light with ${r.name}`, () => void edit({ useRig: { rig: r.name } }), `rig ${r.note}`),
    ),
    ...kinds.formats.map((f) =>
      named(
        `Set the format to ${f.name}, ${f.width} × ${f.height}`,
        () => void edit({ setPicture: { patch: { format: { width: f.width, height: f.height } } } }),
      ),
    ),
    ...(d.angles ?? []).map((a) =>
      named(`Use the angle ${a.name}`, () => void edit({ useAngle: { angle: a.id, id: newId() } })),
    ),
    ...d.materials.map((m) =>
      named(`Show the material ${m.name}`, () => {
        goTo("Light");
        usePickedMaterial.setState({ id: m.id });
      }),
    ),
    ...d.parts.map((p) => named(`Select ${p.name}`, () => select(p.id), "part")),
  ];
}

/** The first of a list of commands whose names or other words hold all words that were typed; names come first. */
export function found(list: Command[], query: string, most: number): Command[] {
  const words = query.toLowerCase().split(/\s+/).filter(Boolean);
  const holds = (text: string) => words.every((w) => text.includes(w));
  const byName = list.filter((c) => holds(c.name.toLowerCase()));
  const more = list.filter((c) => !byName.includes(c) && holds(`${c.name} ${c.find ?? ""}`.toLowerCase()));
  return [...byName, ...more].slice(0, most);
}
