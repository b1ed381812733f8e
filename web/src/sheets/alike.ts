import { createContext, useCallback, useContext } from "react";
import { useEdits, type Said } from "../api/queries";
import type { Edit, Move, Part } from "../api/types.gen";

/** The moves that are set along with each move shown: of the same kind, on the other selected parts. */
export const Alike = createContext<ReadonlyMap<string, string[]>>(new Map());

/** An edit with those that say the same of the moves alike. */
function spread(e: Edit, alike: ReadonlyMap<string, string[]>): Edit[] {
  const others = (id: string) => alike.get(id) ?? [];
  if ("removeMoves" in e)
    return [{ removeMoves: { moves: e.removeMoves.moves.flatMap((m) => [m, ...others(m)]) } }];
  if ("setMove" in e)
    return [e, ...others(e.setMove.move).map((move) => ({ setMove: { ...e.setMove, move } }))];
  if ("moveMove" in e)
    return [e, ...others(e.moveMove.move).map((move) => ({ moveMove: { ...e.moveMove, move } }))];
  return [e];
}

/** Edits of moves. What is said of one that stands for several is said of all of them. */
export function useMoveEdits() {
  const alike = useContext(Alike);
  const { edit } = useEdits();
  return useCallback(
    (...list: Said[]) =>
      edit((now) =>
        list.flatMap((e) => (typeof e === "function" ? e(now) : e)).flatMap((e) => spread(e, alike)),
      ),
    [edit, alike],
  );
}

/** The moves of several parts, those that are alike together: the first turn of each, the second, and so on. */
export function alikes(parts: Part[]): { part: Part; move: Move; others: Move[] }[] {
  const groups = new Map<string, { part: Part; move: Move; others: Move[] }>();
  for (const part of parts) {
    const count = new Map<string, number>();
    for (const move of part.moves) {
      const n = count.get(move.kind) ?? 0;
      count.set(move.kind, n + 1);
      const held = groups.get(`${move.kind} ${n}`);
      if (held) held.others.push(move);
      else groups.set(`${move.kind} ${n}`, { part, move, others: [] });
    }
  }
  return [...groups.values()];
}
