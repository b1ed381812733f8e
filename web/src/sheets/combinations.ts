import { newId } from "../api/ids";
import type { Move, Part, ShotReply } from "../api/types.gen";

/** A ready-made combination: a file in web/src/moves. Lengths and times may be shares of what they are put on. */
interface Combination {
  name: string;
  note: string;
  group?: boolean; // for groups alone
  parts?: number; // how many are to be selected, at least
  moves: ({ on?: number | "others"; kind: string } & Record<string, unknown>)[];
}

const files = import.meta.glob<Combination>("../moves/*.json", { eager: true, import: "default" });
export const combinations = Object.values(files).sort((a, b) => a.name.localeCompare(b.name));

/** The sizes and names that a combination's words stand for. */
interface Meaning {
  size: number;
  height: number;
  loop: number;
  first: string;
  before: string;
  each: number; // how many come before
}

/** Replaces words such as "0.5 loop" or "first" by what they stand for. */
function resolved(v: unknown, m: Meaning): unknown {
  if (typeof v === "string") {
    if (v === "first" || v === "before") return m[v];
    const found = /^([\d.]+) (size|height|loop|each)$/.exec(v);
    return found ? Number(found[1]) * m[found[2] as "size" | "height" | "loop" | "each"] : v;
  }
  if (Array.isArray(v)) return v.map((x) => resolved(x, m));
  if (typeof v === "object" && v !== null)
    return Object.fromEntries(Object.entries(v).map(([k, x]) => [k, resolved(x, m)]));
  return v;
}

/** The moves of a combination on the selected parts, the first selected first. */
export function combined(
  c: Combination,
  shot: ShotReply,
  chosen: string[],
  measure: (part: Part) => { size: number; height: number },
): { part: string; move: Move }[] {
  const parts = chosen.map((id) => shot.document.parts.find((p) => p.id === id)!).filter(Boolean);
  const out: { part: string; move: Move }[] = [];
  for (const template of c.moves) {
    const { on, ...rest } = template;
    parts.forEach((part, i) => {
      if (on === "others" ? i === 0 : on !== undefined ? i !== on : c.parts === undefined ? false : i !== 0)
        return;
      const meaning = {
        ...measure(part),
        loop: shot.document.frames,
        first: parts[0]!.id,
        before: parts[Math.max(0, i - 1)]!.id,
        each: i,
      };
      const move = {
        span: null,
        pace: { kind: "constant" },
        after: "stays",
        ...(resolved(rest, meaning) as object),
        id: newId(),
        muted: false,
      } as unknown as Move;
      out.push({ part: part.id, move });
    });
  }
  return out;
}
