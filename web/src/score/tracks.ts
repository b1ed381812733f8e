import type { Part, Pin, Track } from "../api/types.gen";

/** Tracks that a part can have by hand, with what they are at rest. */
export const values = [
  { value: "x", label: "Right, x", kind: "length", rest: 0 },
  { value: "y", label: "Up, y", kind: "length", rest: 0 },
  { value: "z", label: "Forwards, z", kind: "length", rest: 0 },
  { value: "turn x", label: "Turn about x", kind: "angle", rest: 0 },
  { value: "turn y", label: "Turn about y", kind: "angle", rest: 0 },
  { value: "turn z", label: "Turn about z", kind: "angle", rest: 0 },
  { value: "width", label: "Width", kind: "percent", rest: 1 },
  { value: "height", label: "Height", kind: "percent", rest: 1 },
  { value: "depth", label: "Depth", kind: "percent", rest: 1 },
] as const;

const num = (v: number | undefined) => v ?? 0;

/** The value of a track at a time, for showing; the core has the last word. */
export function sample(t: Track, time: number): number {
  const pins = t.pins;
  const [first, last] = [pins[0]!, pins.at(-1)!];
  const long = last.time - first.time;
  let at = time;
  let added = 0;
  const how = time < first.time ? t.before : time > last.time ? t.after : "";
  if (how && long > 0) {
    const lap = Math.floor((time - first.time) / long);
    let u = time - first.time - lap * long;
    if (how === "mirror" && Math.abs(lap) % 2 === 1) u = long - u;
    if (how === "carry on") added = lap * (num(last.value) - num(first.value));
    at = first.time + u;
  }
  if (at <= first.time) return num(first.value) + added;
  const i = pins.findLastIndex((p) => p.time <= at);
  const a = pins[i]!;
  const b = pins[i + 1];
  if (!b || a.next === "hold") return num(a.value) + added;
  const s = (at - a.time) / (b.time - a.time);
  const [va, vb] = [num(a.value), num(b.value)];
  if (a.next === "smooth") {
    const h = b.time - a.time;
    return cubic(va, va + (slope(t, i) * h) / 3, vb - (slope(t, i + 1) * h) / 3, vb, s) + added;
  }
  if (a.next === "curve" && a.out && b.in)
    return cubic(va, va + num(a.out.value), vb + num(b.in.value), vb, s) + added;
  return va + (vb - va) * s + added;
}

const cubic = (a: number, b: number, c: number, d: number, s: number) => {
  const r = 1 - s;
  return r * r * r * a + 3 * r * r * s * b + 3 * r * s * s * c + s * s * s * d;
};

function slope(t: Track, i: number): number {
  const n = t.pins.length;
  let [p, q, r] = [t.pins[i - 1], t.pins[i]!, t.pins[i + 1]];
  let h0: number;
  let h1: number;
  if (p && r) [h0, h1] = [q.time - p.time, r.time - q.time];
  else if (t.after === "repeat" && n > 2 && num(t.pins[0]!.value) === num(t.pins[n - 1]!.value)) {
    p = t.pins[n - 2]!;
    r = t.pins[1]!;
    h0 = t.pins[n - 1]!.time - p.time;
    h1 = r.time - t.pins[0]!.time;
  } else return 0;
  q = t.pins[i]!;
  const d0 = (num(q.value) - num(p.value)) / h0;
  const d1 = (num(r.value) - num(q.value)) / h1;
  return d0 * d1 <= 0 ? 0 : (3 * (h0 + h1)) / ((2 * h1 + h0) / d0 + (h1 + 2 * h0) / d1);
}

const near = 1e-6;
export const pinAt = (t: Track | undefined, time: number) =>
  t?.pins.find((p) => Math.abs(p.time - time) < near);

/** How fast the value of a track changes, by the frame. */
export function speed(t: Track, time: number): number {
  const d = 1e-3;
  return (sample(t, time + d) - sample(t, time - d)) / (2 * d);
}

/** Tracks with a pin at a time: changed, or placed where there was none. */
export function pinnedIn(list: Track[], value: string, time: number, change: Partial<Pin>): Track[] {
  const tracks = structuredClone(list);
  let t = tracks.find((x) => x.value === value);
  if (!t) {
    t = { value, pins: [] };
    tracks.push(t);
    const order = values.map((v) => v.value as string);
    tracks.sort((a, b) => order.indexOf(a.value) - order.indexOf(b.value));
  }
  const there = pinAt(t, time);
  if (there) Object.assign(there, change);
  else {
    const before = t.pins.findLast((p) => p.time < time);
    const next = before?.next === "curve" ? "smooth" : (before?.next ?? "smooth");
    if (before?.next === "curve") before.next = "smooth"; // its handles reached for another pin
    t.pins.push({ time, next, ...change });
    t.pins.sort((a, b) => a.time - b.time);
  }
  return tracks.map(fitted);
}

export const pinned = (part: Part, value: string, time: number, change: Partial<Pin>): Track[] =>
  pinnedIn(part.tracks ?? [], value, time, change);

/** The track with handles that reach no further than the next pin. */
function fitted(t: Track): Track {
  t.pins.forEach((p, i) => {
    const q = t.pins[i + 1];
    if (p.next !== "curve" || !q) return;
    if (!p.out || !q.in) {
      p.next = "smooth";
      return;
    }
    const long = q.time - p.time;
    for (const h of [p.out, q.in]) {
      const over = Math.abs(h.time) / long;
      if (over > 1) {
        h.time /= over;
        h.value = num(h.value) / over;
      }
    }
  });
  return t;
}

/** Tracks in which the way from a pin to the next has handles of its own, running as it ran before. */
export function asCurve(list: Track[], value: string, time: number): Track[] {
  return structuredClone(list).map((t) => {
    const i = t.pins.findIndex((p) => Math.abs(p.time - time) < near);
    const [a, b] = [t.pins[i], t.pins[i + 1]];
    if (t.value !== value || !a || !b || a.next === "curve") return t;
    const long = b.time - a.time;
    const straight = (num(b.value) - num(a.value)) / long;
    const [from, to] = a.next === "smooth" ? [slope(t, i), slope(t, i + 1)] : [straight, straight];
    a.out = { time: long / 3, value: (from * long) / 3 };
    b.in = { time: -long / 3, value: (-to * long) / 3 };
    a.next = "curve";
    return t;
  });
}

/** Tracks with a handle put elsewhere; the one on the pin's other side stays in line unless it is broken. */
export function bent(
  list: Track[],
  value: string,
  time: number,
  side: "in" | "out",
  to: { time: number; value: number; broken: boolean },
): Track[] {
  return structuredClone(list).map((t) => {
    const i = t.pins.findIndex((p) => Math.abs(p.time - time) < near);
    const pin = t.pins[i];
    if (t.value !== value || !pin) return t;
    const most = side === "out" ? t.pins[i + 1]!.time - pin.time : pin.time - t.pins[i - 1]!.time;
    const long = Math.min(most, Math.max(0, side === "out" ? to.time : -to.time));
    const other = side === "out" ? pin.in : pin.out;
    const was = pin[side]!;
    const inLine =
      other &&
      Math.abs(num(was.value) * other.time - num(other.value) * was.time) <=
        1e-6 + 1e-3 * Math.abs(num(was.value) * other.time);
    pin[side] = { time: side === "out" ? long : -long, value: to.value };
    if (other && inLine && !to.broken && long > 1e-9) other.value = (to.value / pin[side].time) * other.time;
    return t;
  });
}

/** The tracks without the pin at a time. */
export function unpinned(part: Part, value: string, time: number): Track[] {
  return structuredClone(part.tracks ?? [])
    .map((t) =>
      t.value === value ? { ...t, pins: t.pins.filter((p) => Math.abs(p.time - time) >= near) } : t,
    )
    .filter((t) => t.pins.length > 0);
}

/** Tracks with every pin of one time at another. Pins that stand there already give way. */
export function movedPins(tracks: Track[], from: number, to: number): Track[] {
  return structuredClone(tracks).map((t) => {
    const moving = pinAt(t, from);
    if (!moving) return t;
    const rest = t.pins.filter((p) => p !== moving && Math.abs(p.time - to) >= near);
    return { ...t, pins: [...rest, { ...moving, time: to }].sort((a, b) => a.time - b.time) };
  });
}
