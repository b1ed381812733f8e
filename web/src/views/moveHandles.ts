import * as THREE from "three";
import type { Description, Handle, Part, Shot } from "../api/types.gen";

import { choosePoints, latticeOf, moved, numberOf, type CageNow } from "./cage";

type Triple = [number, number, number];
type Values = Record<string, unknown>;
const vec = (v: unknown) => new THREE.Vector3(...(v as Triple));

/** Something of a move that is dragged in the bench. */
export interface Grip {
  name: string;
  at: THREE.Vector3; // in the room
  plane: THREE.Vector3; // normal of the plane it is dragged in; along it with Alt, none to face the eye
  to: (p: THREE.Vector3) => Values; // of the move, when it is dragged there
  chosen?: boolean; // of points that can be chosen, whether this one is
  press?: (more: boolean) => void; // chooses it, or one more
}

export interface Drawn {
  grips: Grip[];
  lines: THREE.Vector3[][]; // in the room
}

interface Seen {
  part: Part;
  parent: THREE.Matrix4;
  own: THREE.Matrix4;
  shot: Shot;
  worldOf: (id: string) => THREE.Matrix4 | undefined;
  reach: number; // metres that suit the view
  move: string;
  chosen: number[]; // points of its cage
}

const upright = new THREE.Vector3(0, 1, 0);
const none = new THREE.Vector3();
const least = 1e-4; // metres

/** Metres of the room in one of a frame's units. */
const metreOf = (m: THREE.Matrix4) => Math.cbrt(Math.abs(m.determinant())) || 1;

/** What of a move has a place: lengths are metres, points are seen from where the part rests. */
export function gripsOf(kind: Description, values: Values, seen: Seen): Drawn {
  const out: Drawn = { grips: [], lines: [] };
  for (const h of kind.handles)
    if (!h.when || h.when.is.includes(values[h.when.name])) drawers[h.is]?.(h, values, seen, out);
  return out;
}

/** From the part's place, in metres along its parent's axes, to the room, and back. */
function frameOf({ part, parent }: Seen) {
  const inverse = parent.clone().invert();
  const rest = vec(part.rest.position).add(vec(part.pivot));
  const metre = metreOf(parent);
  return {
    room: (v: THREE.Vector3) => v.clone().divideScalar(metre).add(rest).applyMatrix4(parent),
    local: (v: THREE.Vector3) => v.clone().applyMatrix4(inverse).sub(rest).multiplyScalar(metre),
  };
}

const axisOf = (h: Handle, v: Values, s: Seen) =>
  v[h.values.frame!] === "room"
    ? vec(v[h.values.axis!]).normalize()
    : vec(v[h.values.axis!]).transformDirection(v[h.values.frame!] === "own" ? s.own : s.parent);

const drawers: Record<string, (h: Handle, v: Values, s: Seen, out: Drawn) => void> = {
  point(h, v, s, out) {
    const { room, local } = frameOf(s);
    const name = h.values.point!;
    out.grips.push({
      name: h.name,
      at: room(vec(v[name])),
      plane: upright,
      to: (p) => ({ [name]: local(p).toArray() }),
    });
  },
  points(h, v, s, out) {
    const { room, local } = frameOf(s);
    const name = h.values.points!;
    const list = v[name] as Triple[];
    list.forEach((q, i) =>
      out.grips.push({
        name: `${h.name} ${i + 1}`,
        at: room(vec(q)),
        plane: upright,
        to: (p) => ({ [name]: list.map((o, k) => (k === i ? local(p).toArray() : o)) }),
      }),
    );
  },
  along(h, v, s, out) {
    const { room, local } = frameOf(s);
    const name = h.values.length!;
    const way = vec(h.way);
    const lengthwise = Math.abs(way.y) < 0.5;
    out.grips.push({
      name: h.name,
      at: room(way.clone().multiplyScalar(v[name] as number)),
      plane: lengthwise ? upright : none,
      to: (p) => ({ [name]: Math.max(least, local(p).dot(way) / way.lengthSq()) }),
    });
  },
  arc(h, v, s, out) {
    const name = h.values.angle!;
    const most = v[name] as number;
    const pivot = frameOf(s).room(none);
    const axis = axisOf(h, v, s);
    const down = new THREE.Vector3(0, -1, 0).addScaledVector(axis, axis.y);
    if (down.length() < 1e-3) down.set(0, 0, 1).addScaledVector(axis, -axis.z);
    down.normalize();
    const on = (a: number) =>
      pivot.clone().addScaledVector(down.clone().applyAxisAngle(axis, a), s.reach * 0.6);
    out.lines.push(ring(on, -most, most), [on(-most), pivot, on(most)]);
    out.grips.push({
      name: h.name,
      at: on(most),
      plane: axis,
      to: (p) => {
        const d = p.clone().sub(pivot);
        const angle = Math.atan2(down.clone().cross(d).dot(axis), down.dot(d));
        return { [name]: Math.min(Math.PI * 0.99, Math.max(1e-3, Math.abs(angle))) };
      },
    });
  },
  axis(h, v, s, out) {
    const axis = axisOf(h, v, s).multiplyScalar(s.reach * 0.6);
    const pivot = frameOf(s).room(none);
    out.lines.push([pivot.clone().sub(axis), pivot.clone().add(axis)]);
  },
  orbit(h, v, s, out) {
    const number = (role: string) => v[h.values[role]!] as number;
    const target = vec(v[h.values.point!]);
    const of = s.shot.parts.find((p) => p.id === v[h.values.target!]);
    const at = of && s.worldOf(of.id);
    if (of && at) target.add(vec(of.pivot).applyMatrix4(at));
    const [start, turns, radius] = [number("start"), number("turns"), number("radius")];
    const on = (a: number) =>
      target.clone().add(new THREE.Vector3(radius * Math.sin(a), number("height"), radius * Math.cos(a)));
    const swept = 2 * Math.PI * Math.min(1, Math.abs(turns)) * Math.sign(turns || 1);
    out.lines.push(ring(on, start, start + swept), [target, on(start)]);
    out.grips.push({
      name: h.name,
      at: on(start),
      plane: upright,
      to: (p) => {
        const d = p.clone().sub(target);
        return {
          [h.values.radius!]: Math.max(least, Math.hypot(d.x, d.z)),
          [h.values.start!]: Math.atan2(d.x, d.z),
          [h.values.height!]: d.y,
        };
      },
    });
  },
  reach(h, v, s, out) {
    const length = h.values.length!;
    const metre = metreOf(s.own);
    const inverse = s.own.clone().invert();
    const way = new THREE.Vector3().setComponent("xyz".indexOf(v[h.values.axis!] as string), 1);
    const base = vec(v[h.values.base!]);
    const room = (q: THREE.Vector3) => q.clone().divideScalar(metre).applyMatrix4(s.own);
    const end = room(base.clone().addScaledVector(way, v[length] as number));
    out.lines.push([room(base), end]);
    out.grips.push({
      name: h.name,
      at: end,
      plane: none,
      to: (p) => ({
        [length]: Math.max(1e-5, p.clone().applyMatrix4(inverse).multiplyScalar(metre).sub(base).dot(way)),
      }),
    });
  },
  cage(h, v, s, out) {
    const cage = v[h.values.cage!] as CageNow;
    const mirror = v[h.values.mirror!] as string;
    const amount = (v.amount as number) || 1;
    const metre = metreOf(s.own);
    const inverse = s.own.clone().invert();
    const gone = (k: number) =>
      new THREE.Vector3(
        ...([0, 1, 2].map(
          (c) => (v[`point ${k} ${"xyz"[c]}`] as number | undefined) ?? cage.points[k]![c]!,
        ) as Triple),
      );
    const rest = (k: number) =>
      new THREE.Vector3(
        ...(latticeOf(cage.n, k).map(
          (i, c) => cage.low[c]! + (cage.size[c]! * i) / (cage.n[c]! - 1),
        ) as Triple),
      );
    const room = (q: THREE.Vector3) => q.divideScalar(metre).applyMatrix4(s.own);
    const all = cage.points.map((_, k) => room(rest(k).addScaledVector(gone(k), amount)));
    for (let axis = 0; axis < 3; axis++)
      all.forEach((_, k) => {
        const at = latticeOf(cage.n, k);
        if (at[axis] !== 0) return;
        const row: THREE.Vector3[] = [];
        for (let i = 0; i < cage.n[axis]!; i++)
          row.push(all[numberOf(cage.n, at.map((o, c) => (c === axis ? i : o)) as Triple)]!);
        out.lines.push(row);
      });
    const { chosen } = s;
    all.forEach((at, k) =>
      out.grips.push({
        name: `${h.name} ${latticeOf(cage.n, k)
          .map((i) => i + 1)
          .join(" ")}`,
        at,
        plane: none,
        chosen: chosen.includes(k),
        press: (more) => {
          if (more) choosePoints(s.move, chosen.includes(k) ? chosen.filter((o) => o !== k) : [...chosen, k]);
          else if (!chosen.includes(k)) choosePoints(s.move, [k]);
        },
        to: (p) => {
          const by = p
            .clone()
            .applyMatrix4(inverse)
            .sub(at.clone().applyMatrix4(inverse))
            .multiplyScalar(metre / amount);
          const go = chosen.includes(k) ? chosen : [k];
          return Object.assign(
            {},
            ...go.map((i) => moved(cage, mirror, i, gone(i).add(by).toArray() as Triple)),
          ) as Values;
        },
      }),
    );
  },
  stops(h, v, _, out) {
    const name = h.values.stops!;
    const list = v[name] as { position: Triple }[];
    list.forEach((q, i) =>
      out.grips.push({
        name: `${h.name} ${i + 1}`,
        at: vec(q.position),
        plane: upright,
        to: (p) => ({ [name]: list.map((o, k) => (k === i ? { ...o, position: p.toArray() } : o)) }),
      }),
    );
  },
};

const ring = (f: (t: number) => THREE.Vector3, from: number, to: number) =>
  Array.from({ length: 65 }, (_, i) => f(from + ((to - from) * i) / 64));
