import * as THREE from "three";
import type { Move, Part, Shot } from "../api/types.gen";

type Triple = [number, number, number];
const vec = (v: readonly number[]) => new THREE.Vector3(v[0], v[1], v[2]);

/** Something of a move that is dragged in the bench. */
export interface Grip {
  name: string;
  at: THREE.Vector3; // in the room
  plane: THREE.Vector3; // normal of the plane it is dragged in; along it with Alt
  to: (p: THREE.Vector3) => Partial<Move>;
}

export interface Drawn {
  grips: Grip[];
  lines: THREE.Vector3[][]; // in the room
}

const upright = new THREE.Vector3(0, 1, 0);

/** What of a part's moves has a place: points of a path, radii, arcs, targets; parent is the matrix of its parent. */
export function gripsOf(
  part: Part,
  moves: Move[],
  parent: THREE.Matrix4,
  own: THREE.Matrix4,
  shot: Shot,
  worldOf: (id: string) => THREE.Matrix4 | undefined,
  reach: number, // metres that suit the view
): Drawn {
  const out: Drawn = { grips: [], lines: [] };
  const inverse = parent.clone().invert();
  const rest = vec(part.rest.position).add(vec(part.pivot));
  const room = (v: THREE.Vector3) => v.clone().applyMatrix4(parent);
  const local = (v: THREE.Vector3) => v.clone().applyMatrix4(inverse).sub(rest);
  const scale = new THREE.Vector3().setFromMatrixColumn(parent, 0).length() || 1;
  const add = (name: string, at: THREE.Vector3, plane: THREE.Vector3, to: Grip["to"]) =>
    out.grips.push({ name, at, plane, to });
  const ring = (f: (t: number) => THREE.Vector3, from = 0, to = 2 * Math.PI) =>
    out.lines.push(Array.from({ length: 65 }, (_, i) => f(from + ((to - from) * i) / 64)));
  for (const m of moves) {
    if (m.muted) continue;
    if (m.travel) {
      const t = m.travel;
      if (t.path === "points" || t.path === "closed") {
        (t.points ?? []).forEach((q, i) =>
          add(`Point ${i + 1}`, room(rest.clone().add(vec(q))), upright, (p) => ({
            travel: {
              ...t,
              points: t.points!.map((o, k) => (k === i ? (local(p).toArray() as Triple) : o)),
            },
          })),
        );
      } else if (t.path !== "drawn") {
        const deep = t.path === "circle" ? t.width! : t.depth!;
        add("Far end of the path", room(rest.clone().add(new THREE.Vector3(0, 0, -deep))), upright, (p) => {
          const d = Math.max(1e-4, -local(p).z);
          return { travel: { ...t, ...(t.path === "circle" ? { width: d } : { depth: d }) } };
        });
        if (t.path !== "circle")
          add(
            "Side of the path",
            room(rest.clone().add(new THREE.Vector3(t.width! / 2, 0, -deep / 2))),
            upright,
            (p) => ({ travel: { ...t, width: Math.max(1e-4, 2 * Math.abs(local(p).x)) } }),
          );
      }
    }
    if (m.slide && m.slide.frame === "parent")
      add("Where it slides to", room(rest.clone().add(vec(m.slide.by))), upright, (p) => ({
        slide: { ...m.slide!, by: local(p).toArray() as Triple },
      }));
    if (m.float)
      add(
        "Height",
        room(rest.clone().add(new THREE.Vector3(0, m.float.height, 0))),
        new THREE.Vector3(),
        (p) => ({
          float: { ...m.float!, height: Math.max(0, local(p).y) },
        }),
      );
    if (m.roll)
      add(
        "Radius of what rolls",
        room(rest.clone().sub(new THREE.Vector3(0, m.roll.radius, 0))),
        new THREE.Vector3(),
        (p) => ({ roll: { ...m.roll!, radius: Math.max(1e-5, -local(p).y) } }),
      );
    if (m.swing) {
      const s = m.swing;
      const pivot = room(rest);
      const axis = vec(s.axis).transformDirection(s.frame === "own" ? own : parent);
      const down = new THREE.Vector3(0, -1, 0).addScaledVector(axis, axis.y);
      if (down.length() < 1e-3) down.set(0, 0, 1).addScaledVector(axis, -axis.z);
      down.normalize();
      const far = reach * 0.6;
      const on = (a: number) => pivot.clone().addScaledVector(down.clone().applyAxisAngle(axis, a), far);
      ring(on, -s.amplitude, s.amplitude);
      out.lines.push([on(-s.amplitude), pivot, on(s.amplitude)]);
      add("Amplitude", on(s.amplitude), axis, (p) => {
        const d = p.clone().sub(pivot);
        const angle = Math.atan2(down.clone().cross(d).dot(axis), down.dot(d));
        return { swing: { ...s, amplitude: Math.min(Math.PI * 0.99, Math.max(1e-3, Math.abs(angle))) } };
      });
    }
    if (m.turn) {
      const axis = vec(m.turn.axis)
        .transformDirection(m.turn.frame === "own" ? own : parent)
        .multiplyScalar(reach * 0.6);
      const pivot = room(rest);
      out.lines.push([pivot.clone().sub(axis), pivot.clone().add(axis)]);
    }
    if (m.orbit) {
      const o = m.orbit;
      const target = vec(o.point);
      const of = shot.parts.find((p) => p.id === o.target);
      const at = of && worldOf(of.id);
      if (of && at) target.add(vec(of.pivot).applyMatrix4(at));
      const r = o.radius * scale;
      const on = (a: number) =>
        target.clone().add(new THREE.Vector3(r * Math.sin(a), o.height * scale, r * Math.cos(a)));
      ring(on, o.start, o.start + 2 * Math.PI * Math.min(1, Math.abs(o.turns)) * Math.sign(o.turns || 1));
      out.lines.push([target, on(o.start)]);
      add("Where the orbit begins", on(o.start), upright, (p) => {
        const d = p.clone().sub(target);
        return {
          orbit: {
            ...o,
            radius: Math.max(1e-4, Math.hypot(d.x, d.z) / scale),
            start: Math.atan2(d.x, d.z),
            height: d.y / scale,
          },
        };
      });
    }
    if (m.flex) {
      const f = m.flex;
      const dir = new THREE.Vector3().setComponent(f.axis, 1);
      const base = vec(f.base);
      add(
        "End of what flexes",
        base.clone().addScaledVector(dir, f.length).applyMatrix4(own),
        new THREE.Vector3(),
        (p) => {
          const q = p.clone().applyMatrix4(own.clone().invert()).sub(base);
          return { flex: { ...f, length: Math.max(1e-5, q.dot(dir)) } };
        },
      );
      out.lines.push([
        base.clone().applyMatrix4(own),
        base.clone().addScaledVector(dir, f.length).applyMatrix4(own),
      ]);
    }
    if (m.flight)
      m.flight.stops.forEach((s, i) =>
        add(`Stop ${i + 1}`, vec(s.position), upright, (p) => ({
          flight: {
            ...m.flight!,
            stops: m.flight!.stops.map((o, k) => (k === i ? { ...o, position: p.toArray() as Triple } : o)),
          },
        })),
      );
  }
  return out;
}
