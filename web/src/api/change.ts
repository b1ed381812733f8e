import type { ShotChange, ShotReply } from "./types.gen";

/** The answer to a change, with what it left out because it is as it was. */
export function whole(was: ShotReply, change: ShotChange): ShotReply {
  const now = change.shot!;
  if (change.since !== was.version) return now;
  const list = <T>(name: string, old: T[], fresh: T[]): T[] => {
    const pieces = change.lists[name]!;
    if (pieces.length === 1 && pieces[0]!.from === 0 && pieces[0]!.count === old.length) return old;
    let taken = 0;
    return pieces.flatMap(({ from, count }) =>
      from < 0 ? fresh.slice(taken, (taken += count)) : old.slice(from, from + count),
    );
  };
  return {
    ...now,
    document: {
      ...now.document,
      parts: list("document.parts", was.document.parts, now.document.parts),
      materials: list("document.materials", was.document.materials, now.document.materials),
    },
    seam: list("seam", was.seam, now.seam),
    moves: list("moves", was.moves, now.moves),
    pins: list("pins", was.pins, now.pins),
    shown: list("shown", was.shown, now.shown),
  };
}
