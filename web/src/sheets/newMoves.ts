import * as THREE from "three";
import type { Move, Part, ShotReply } from "../api/types.gen";
import { bench3d } from "../views/bench3d";
import { firstLook, flexReach } from "./changes";

type First = Omit<Move, "id" | "muted">;
type Triple = [number, number, number];

const over = { span: null, pace: { kind: "constant" }, after: "stays" };
const gently = { span: null, pace: { kind: "sine", way: "both" }, laps: 2, after: "there and back" };

/** A round number near v: 1, 2 or 5 times a power of ten. */
function round(v: number): number {
  if (!(v > 0)) return 0.01;
  const p = Math.pow(10, Math.floor(Math.log10(v)));
  return [1, 2, 5, 10].map((k) => k * p).reduce((a, b) => (Math.abs(b - v) < Math.abs(a - v) ? b : a));
}

/** How large a part is in its parent's measure, and how high. */
export function measured(shot: ShotReply, part: Part): { size: number; height: number } {
  const inside = new Set([part.id]);
  for (const p of shot.document.parts) if (inside.has(p.parent)) inside.add(p.id);
  const box = bench3d.stage?.bounds((id) => inside.has(id)) ?? new THREE.Box3();
  const size = box.isEmpty() ? new THREE.Vector3(0.1, 0.1, 0.1) : box.getSize(new THREE.Vector3());
  const up = shot.document.parts.findIndex((p) => p.id === part.parent);
  const parent = (up >= 0 && bench3d.stage?.worldOf(up, 0)) || new THREE.Matrix4();
  const scale = new THREE.Vector3().setFromMatrixColumn(parent, 0).length() || 1;
  return { size: Math.max(size.x, size.y, size.z) / scale, height: Math.max(size.y, 1e-5) / scale };
}

/** Moves that a part can get, with first values measured from it. They play at once. */
export function newMoves(shot: ShotReply, part: Part): { kind: string; note: string; move: () => First }[] {
  const d = shot.document;
  const n = d.frames;
  const inside = new Set([part.id]);
  for (const p of d.parts) if (inside.has(p.parent)) inside.add(p.id);
  const box = bench3d.stage?.bounds((id) => inside.has(id)) ?? new THREE.Box3();
  const size = box.isEmpty() ? new THREE.Vector3(0.1, 0.1, 0.1) : box.getSize(new THREE.Vector3());
  const large = Math.max(size.x, size.y, size.z);
  const up = d.parts.findIndex((p) => p.id === part.parent);
  const parentOf = (up >= 0 && bench3d.stage?.worldOf(up, 0)) || new THREE.Matrix4();
  const scale = new THREE.Vector3().setFromMatrixColumn(parentOf, 0).length() || 1;
  const own = (v: number) => v / scale; // from metres in the room to the parent's
  const local = box.clone().applyMatrix4(parentOf.clone().invert());
  const half = Math.min(n, Math.max(1, n / 2));
  const others = d.parts.filter((p) => !inside.has(p.id) && !p.light && !p.camera && p.kind !== "floor");
  const turning = others.find((p) =>
    p.moves.some((m) => m.turn ?? m.turntable ?? m.gear ?? m.roll ?? m.swing),
  );
  const moving = others.find((p) => p.moves.length > 0) ?? others[0];
  const children = d.parts.some((p) => p.parent === part.id);
  const step = own(round(large / 2));
  const list: { kind: string; note: string; move: () => First }[] = [];
  const add = (kind: string, note: string, move: () => First) => list.push({ kind, note, move });

  if (part.kind === "group" && !part.moves.some((m) => m.kind === "turntable"))
    add("turntable", "whole turns, closes by itself", () => ({
      kind: "turntable",
      ...over,
      turntable: { moves: "object", direction: "clockwise", turns: 1, plinth: true },
    }));
  add("turn", "about an axis, with stops if you like", () => ({
    kind: "turn",
    ...over,
    turn: { axis: [0, 1, 0], frame: "own", turns: 1, direction: "clockwise" },
  }));
  add("float", "gently up and down", () => ({
    kind: "float",
    ...over,
    float: { height: own(round(large / 30)), period: half, tilt: 0 },
  }));
  add("slide", "along, there and back", () => ({
    kind: "slide",
    ...gently,
    slide: { by: [step, 0, 0], frame: "parent" },
  }));
  if (!part.camera && !part.light)
    add("flex", "bend or twist along an axis", () => ({
      kind: "flex",
      ...gently,
      flex: { shape: "bend", axis: 1, towards: 0, angle: Math.PI / 4, ...flexReach({ shot, part }, 1) },
    }));
  if (!part.camera)
    add(
      "look",
      part.light ? "strength or colour, from and to" : "colour, glow or opacity, from and to",
      () => ({
        kind: "look",
        ...gently,
        look: part.light
          ? { what: "strength", own: true, from: [1, 0, 0], to: [0.1, 0, 0] }
          : { what: "colour", own: true, ...firstLook("colour") },
      }),
    );
  add("squash", "along an axis, keeping its volume", () => ({
    kind: "squash",
    ...gently,
    squash: { axis: 1, amount: -0.2 },
  }));
  add("swing", "to and fro, a true pendulum too", () => ({
    kind: "swing",
    ...over,
    swing: { axis: [0, 0, 1], frame: "parent", amplitude: Math.PI / 12, shape: "sine", period: half },
  }));
  add("roll", "turning as far as it goes: no slip", () => ({
    kind: "roll",
    ...gently,
    pace: { kind: "constant" },
    roll: { radius: own(Math.max(size.y, 1e-5) / 2), along: [1, 0, 0], turns: 1, contact: "ground" },
  }));
  add("topple", "over its edges, always on the floor", () => ({
    kind: "topple",
    span: { from: 0, to: Math.max(1, Math.round(n * 0.75)) },
    pace: { kind: "power", way: "in", power: 2 },
    after: "returns",
    topple: {
      along: [1, 0, 0],
      sides: 4,
      width: own(size.x),
      high: own(size.y),
      base: [(local.min.x + local.max.x) / 2, local.min.y, (local.min.z + local.max.z) / 2].map((v) =>
        Number.isFinite(v) ? v : 0,
      ) as Triple,
      steps: 2,
    },
  }));
  add("travel", "along a path at its arc length", () => ({
    kind: "travel",
    ...over,
    travel: { path: "circle", width: step * 2, depth: step, corner: step / 4, from: 0, to: 1, lay: false },
  }));
  if (turning)
    add("gear", "driven by another part, in a ratio", () => ({
      kind: "gear",
      ...over,
      gear: { driver: turning.id, axis: [0, 1, 0], frame: "own", num: 1, den: 1, mesh: "outside" },
    }));
  if (moving)
    add("follow", "another part, later", () => ({
      kind: "follow",
      ...over,
      follow: { of: moving.id, position: true, rotation: true, size: false, lag: 6 },
    }));
  if (moving)
    add("skim", "over another surface, along a cut", () => ({
      kind: "skim",
      ...over,
      skim: {
        on: (others.find((p) => p.mesh ?? p.shape) ?? moving).id,
        normal: [1, 0, 0],
        offset: 0,
        away: own(large / 50),
        flip: false,
      },
    }));
  if (part.camera) {
    const at = new THREE.Vector3(...part.rest.position);
    const target = middle();
    add("orbit", "round a target, looking at it", () => ({
      kind: "orbit",
      ...over,
      orbit: {
        target: "",
        point: target,
        start: Math.atan2(at.x, at.z),
        turns: 1,
        radius: Math.max(0.01, Math.hypot(at.x, at.z)),
        height: at.y - target[1],
      },
    }));
    add("flight", "through places, resting at some", () => ({
      kind: "flight",
      ...over,
      flight: {
        stops: [
          { at: 0, rest: 0, position: part.rest.position, rotation: part.rest.rotation },
          {
            at: Math.round(n / 2),
            rest: 0,
            position: at.clone().multiplyScalar(1.3).toArray(),
            rotation: part.rest.rotation,
          },
          { at: n, rest: 0, position: part.rest.position, rotation: part.rest.rotation },
        ],
      },
    }));
  }
  if (children && part.kind === "group") {
    add("reveal", "its parts arrive one after another", () => ({
      kind: "reveal",
      span: { from: 0, to: 12 },
      pace: { kind: "back", way: "out" },
      after: "stays",
      reveal: { order: "left", delay: 3, takes: 12, from: "scale", by: [0, step, 0], turn: Math.PI / 2 },
    }));
    add("unfold", "its panels open about their hinges", () => ({
      kind: "unfold",
      ...gently,
      unfold: { angle: Math.PI / 2, order: "together", deep: false, share: 0.4 },
    }));
    add("burst", "its parts fly apart and come back", () => ({
      kind: "burst",
      ...gently,
      burst: { spread: step, turn: Math.PI, seed: 1 },
    }));
  }
  return list;
}

/** The middle of all that is seen, for a camera to look at. */
function middle(): Triple {
  const box = bench3d.stage?.bounds();
  return box && !box.isEmpty() ? box.getCenter(new THREE.Vector3()).toArray() : [0, 0, 0];
}

/** Names of moves as the menu and the score show them. */
export const moveName = (kind: string) => kind.charAt(0).toUpperCase() + kind.slice(1);
