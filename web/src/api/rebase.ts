import type { Edit, Shot, Track } from "./types.gen";

type Value = unknown;
const plain = (v: Value): v is Record<string, Value> =>
  typeof v === "object" && v !== null && !Array.isArray(v);

/** What was changed from base to mine, done to theirs. */
export function merged(base: Value, mine: Value, theirs: Value): Value {
  if (JSON.stringify(base) === JSON.stringify(mine)) return theirs;
  if (plain(base) && plain(mine) && plain(theirs)) {
    const out: Record<string, Value> = {};
    for (const k of new Set([...Object.keys(theirs), ...Object.keys(mine)])) {
      const v = merged(base[k], mine[k], theirs[k]);
      if (v !== undefined) out[k] = v;
    }
    return out;
  }
  if (
    Array.isArray(base) &&
    Array.isArray(mine) &&
    Array.isArray(theirs) &&
    base.length === mine.length &&
    mine.length === theirs.length
  )
    return mine.map((v, i) => merged(base[i], v, (theirs as Value[])[i]));
  return mine;
}

/** The same for lists whose things are known by a key rather than their place. */
function mergedBy<T>(
  key: (v: T) => unknown,
  base: T[],
  mine: T[],
  theirs: T[],
  one: (b: T, m: T, t: T) => T,
): T[] {
  const by = (list: T[]) => new Map(list.map((v) => [key(v), v]));
  const [b, m, t] = [by(base), by(mine), by(theirs)];
  const out: T[] = [];
  for (const [k, v] of t) {
    const [was, now] = [b.get(k), m.get(k)];
    if (now !== undefined) out.push(was === undefined ? now : one(was, now, v));
    else if (was === undefined) out.push(v); // put in by them; what was there before has been taken out
  }
  for (const [k, v] of m) {
    if (t.has(k)) continue;
    const was = b.get(k);
    if (was === undefined || JSON.stringify(was) !== JSON.stringify(v)) out.push(v);
  }
  return out;
}

/** Pins by their times, in tracks by their values. */
function mergedTracks(base: Track[], mine: Track[], theirs: Track[]): Track[] {
  return mergedBy(
    (t) => t.value,
    base,
    mine,
    theirs,
    (b, m, t) => ({
      ...(merged({ ...b, pins: [] }, { ...m, pins: [] }, { ...t, pins: [] }) as Track),
      pins: mergedBy(
        (p) => p.time,
        b.pins,
        m.pins,
        t.pins,
        (x, y, z) => merged(x, y, z) as Track["pins"][number],
      ).sort((x, y) => x.time - y.time),
    }),
  );
}

/**
 * An edit replaces what it names as a whole. One that was made before the answer to an earlier one had
 * come would take the earlier one back: so it is made anew from what it changed, on the newest document.
 */
export function rebased(e: Edit, base: Shot, newest: Shot): Edit {
  if (base === newest) return e;
  const of = <T>(a: T | undefined, mine: T, b: T | undefined): T =>
    a && b ? (merged(a, mine, b) as T) : mine;
  if (e.setPart) {
    const id = e.setPart.part.id;
    const find = (s: Shot) => s.parts.find((p) => p.id === id);
    return { setPart: { part: of(find(base), e.setPart.part, find(newest)) } };
  }
  if (e.setMove) {
    const id = e.setMove.move.id;
    const find = (s: Shot) => s.parts.flatMap((p) => p.moves).find((m) => m.id === id);
    return { setMove: { move: of(find(base), e.setMove.move, find(newest)) } };
  }
  if (e.setTracks) {
    const { part, tracks } = e.setTracks;
    const find = (s: Shot) => s.parts.find((p) => p.id === part)?.tracks ?? [];
    return { setTracks: { part, tracks: mergedTracks(find(base), tracks, find(newest)) } };
  }
  if (e.setTiming) {
    const timing = ({ frames, rate, ending }: Shot) => ({ frames, rate, ending });
    return { setTiming: of(timing(base), e.setTiming, timing(newest)) };
  }
  if (e.setPicture) {
    const p = e.setPicture;
    return {
      setPicture: {
        ...p,
        ...(p.environment ? { environment: of(base.environment, p.environment, newest.environment) } : {}),
        ...(p.format ? { format: of(base.format, p.format, newest.format) } : {}),
      },
    };
  }
  return e;
}
