import type { Edit } from "./types.gen";

/** A JSON Merge Patch: undefined is said as null. */
export function patchOf(change: object): Record<string, unknown> {
  const plain = (v: unknown): v is object => typeof v === "object" && v !== null && !Array.isArray(v);
  return Object.fromEntries(
    Object.entries(change).map(([k, v]) => [k, v === undefined ? null : plain(v) ? patchOf(v) : v]),
  );
}

/** A patch that leaves nothing of what an object was before. */
export const instead = (old: object | undefined | null, now: object): object => ({
  ...Object.fromEntries(Object.keys(old ?? {}).map((k) => [k, null])),
  ...now,
});

export const setPart = (part: string, change: object): Edit => ({
  setPart: { part, patch: patchOf(change) },
});
export const setPicture = (change: object): Edit => ({ setPicture: { patch: patchOf(change) } });
export const setMove = (move: string, change: object): Edit => ({
  setMove: { move, patch: patchOf(change) },
});
