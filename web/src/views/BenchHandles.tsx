import { useEffect, useRef, useState, type RefObject } from "react";
import * as THREE from "three";
import { useEdits } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { lengths } from "../fields/lengths";
import { clock } from "../state/clock";
import { drawn } from "../state/signals";
import { useUi } from "../state/ui";
import { useBench } from "./benchStore";
import { inside, matrixOf, rounded, roundStep, snapped, turnBetween, type Drag } from "./dragging";
import { Toolbar } from "./Toolbar";

const colours = ["var(--coral)", "var(--fern)", "var(--heather)"];
const names = ["x", "y", "z"];
const measures = ["width", "height", "depth"];
const three = <T,>(of: (k: number) => T): [T, T, T] => [of(0), of(1), of(2)];
const length = 74; // pixels of a handle

interface Seen {
  centre: THREE.Vector2;
  pixel: number; // metres that one pixel is, at the centre
  pivot: THREE.Vector3;
  axes: [THREE.Vector3, THREE.Vector3, THREE.Vector3];
  ends: THREE.Vector2[];
  rings: string[]; // as SVG paths
}

/**
 * The handles of what is selected: pins to drag it along an axis, stitched rings to turn it, and the
 * pins again to resize it. They lie over the bench, always the same size on the screen.
 */
export function BenchHandles({ shot, over }: { shot: ShotReply; over: RefObject<HTMLDivElement | null> }) {
  const { edit } = useEdits();
  const { chosen, tool, even, axes, snap, step, picking, recording } = useUi();
  const pinning = recording && step !== "Arrange";
  const [seen, setSeen] = useState<Seen | null>(null);
  const [box, setBox] = useState<{ left: number; top: number; w: number; h: number } | null>(null);
  const [words, setWords] = useState("");
  const drag = useRef<Drag | null>(null);
  const parts = shot.document.parts;
  const part = parts.find((p) => p.id === chosen.at(-1));
  const active =
    part !== undefined &&
    (step === "Arrange" || pinning) &&
    picking === null &&
    !part.locked &&
    !part.camera?.fitted;
  const along = tool === "resize" && !even && chosen.length === 1; // each handle its own measure

  useEffect(() => {
    const look = () => {
      const { stage, eye } = useBench.getState();
      const el = over.current;
      if (!active || !stage || !eye || !el) return setSeen(null);
      const r = el.getBoundingClientRect();
      const p = el.offsetParent!.getBoundingClientRect();
      setBox((b) =>
        b && b.w === r.width && b.h === r.height && b.top === r.top - p.top
          ? b
          : { left: r.left - p.left, top: r.top - p.top, w: r.width, h: r.height },
      );
      const index = parts.indexOf(part);
      const world = stage.worldOf(index, clock.frame);
      if (!world) return setSeen(null);
      const d = drag.current;
      const pivot = d ? d.pivot.clone().add(d.move) : new THREE.Vector3(...part.pivot).applyMatrix4(world);
      const up =
        axes === "own" || along
          ? world
          : axes === "parent"
            ? stage.worldOf(
                parts.findIndex((q) => q.id === part.parent),
                clock.frame,
              )
            : undefined;
      const dirs =
        d?.axes ??
        three((k) =>
          up && !(axes === "parent" && !part.parent)
            ? new THREE.Vector3().setFromMatrixColumn(up, k).normalize()
            : new THREE.Vector3().setComponent(k, 1),
        );
      const screen = (v: THREE.Vector3) => {
        const q = v.clone().project(eye);
        return new THREE.Vector2(((q.x + 1) / 2) * r.width, ((1 - q.y) / 2) * r.height);
      };
      const depth = -pivot.clone().applyMatrix4(eye.matrixWorldInverse).z;
      const pixel = (2 * depth * Math.tan((eye.fov * Math.PI) / 360)) / r.height;
      const ends = dirs.map((a) => screen(pivot.clone().addScaledVector(a, length * pixel)));
      const rings = dirs.map((a) => {
        const u = new THREE.Vector3(a.y, a.z, a.x).cross(a).normalize();
        const v = u.clone().cross(a);
        return Array.from({ length: 49 }, (_, i) => {
          const t = (i / 48) * 2 * Math.PI;
          const q = screen(
            pivot
              .clone()
              .addScaledVector(u, Math.cos(t) * length * pixel)
              .addScaledVector(v, Math.sin(t) * length * pixel),
          );
          return `${i ? "L" : "M"}${q.x.toFixed(1)} ${q.y.toFixed(1)}`;
        }).join("");
      });
      setSeen({ centre: screen(pivot), pixel, pivot, axes: dirs, ends, rings });
    };

    useBench.getState().invalidate();
    return drawn.hear(look);
  }, [active, part, parts, axes, along, over, tool]);

  if (!active || !seen || !box) return <Toolbar shot={shot} />;

  const begin = (axis: number) => (e: React.PointerEvent) => {
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    clock.play(0);
    useBench.getState().hold(true);
    drag.current = {
      axis,
      from: new THREE.Vector2(e.clientX, e.clientY),
      pivot: seen.pivot,
      axes: seen.axes,
      pixel: seen.pixel,
      centre: seen.centre,
      move: new THREE.Vector3(),
      turn: new THREE.Quaternion(),
      size: 1,
      along: along && axis < 3,
    };
  };

  const follow = (e: React.PointerEvent) => {
    const d = drag.current;
    const { stage, eye } = useBench.getState();
    if (!d || !stage || !eye) return;
    const r = over.current!.getBoundingClientRect();
    const now = new THREE.Vector2(e.clientX, e.clientY);
    const delta = now.clone().sub(d.from);
    const steps = snap === "steps" || e.ctrlKey;
    const a = d.axes[d.axis];
    if (tool === "drag") {
      if (a) {
        const along = seen.ends[d.axis]!.clone().sub(seen.centre); // the axis on the screen, for one handle's length
        const l2 = Math.max(16, along.lengthSq());
        let metres = (delta.dot(along) / l2) * length * d.pixel;
        if (steps) metres = rounded(metres, roundStep(d.pixel * 12));
        d.move.copy(a).multiplyScalar(metres);
      } else {
        const right = new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 0);
        const up = new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 1);
        d.move
          .copy(right)
          .multiplyScalar(delta.x * d.pixel)
          .addScaledVector(up, -delta.y * d.pixel);
        const to = snapped(now, r, stage, eye, snap, new Set(inside(shot, chosen)));
        if (to) d.move.copy(to).sub(d.pivot);
        else if (steps)
          d.move.set(
            ...(d.move.toArray().map((v) => rounded(v, roundStep(d.pixel * 12))) as [number, number, number]),
          );
      }
      setWords(lengths([d.move.length()], "", 4));
    } else if (tool === "turn" && a) {
      const c = new THREE.Vector2(r.left + d.centre.x, r.top + d.centre.y);
      const away = a.dot(new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 2)) > 0 ? 1 : -1;
      let angle = -away * turnBetween(d.from.clone().sub(c), now.clone().sub(c));
      if (steps) angle = rounded(angle, Math.PI / 12);
      d.turn.setFromAxisAngle(a, angle);
      setWords(`${((angle * 180) / Math.PI).toFixed(1)}°`);
    } else if (tool === "resize") {
      const c = new THREE.Vector2(r.left + d.centre.x, r.top + d.centre.y);
      const way = d.along ? seen.ends[d.axis]!.clone().sub(seen.centre).normalize() : null;
      const far = (p: THREE.Vector2) => (way ? p.clone().sub(c).dot(way) : p.distanceTo(c));
      d.size = Math.max(0.001, far(now) / Math.max(8, far(d.from)));
      if (steps) d.size = Math.max(0.1, rounded(d.size, 0.1));
      setWords(`${(d.size * 100).toFixed(1)} %`);
    }
    stage.preview(new Set(inside(shot, chosen)), matrixOf(d));
  };

  const end = () => {
    const d = drag.current;
    drag.current = null;
    useBench.getState().hold(false);
    setWords("");
    if (!d) return;
    const still = d.move.length() === 0 && d.size === 1 && d.turn.w > 1 - 1e-12;
    if (still) return useBench.getState().stage?.preview(null);
    if (d.along)
      return void edit({
        setSize: { parts: chosen, axis: d.axis, factor: d.size, ...(pinning ? { at: clock.frame } : {}) },
      }).then((ok) => ok || useBench.getState().stage?.preview(null));
    void edit({
      transform: {
        parts: chosen,
        about: d.pivot.toArray(),
        move: d.move.toArray(),
        turn: d.turn.toArray() as [number, number, number, number],
        size: d.size,
        ...(pinning ? { at: clock.frame } : {}),
      },
    }).then((ok) => ok || useBench.getState().stage?.preview(null));
  };
  const hold = (axis: number) => ({
    onPointerDown: begin(axis),
    onPointerMove: follow,
    onPointerUp: end,
    onPointerCancel: end,
  });
  const c = seen.centre;
  return (
    <>
      <svg
        className="pointer-events-none absolute z-10 overflow-hidden"
        style={box && { left: box.left, top: box.top, width: box.w, height: box.h }}
        data-testid="handles"
      >
        {tool === "turn"
          ? seen.rings.map((d, k) => (
              <g
                key={k}
                className="pointer-events-auto cursor-grab"
                {...hold(k)}
                data-testid={`turn-${names[k]}`}
              >
                <path d={d} fill="none" stroke="transparent" strokeWidth={10} pointerEvents="stroke" />
                <path
                  d={d}
                  fill="none"
                  stroke={colours[k]}
                  strokeWidth={2}
                  strokeDasharray="6 4"
                  pointerEvents="none"
                />
              </g>
            ))
          : seen.ends.map((p, k) => (
              <g
                key={k}
                className="pointer-events-auto cursor-grab"
                {...hold(tool === "resize" && !along ? 3 : k)}
                data-testid={`${tool}-${names[k]}`}
              >
                <path d={`M${c.x} ${c.y}L${p.x} ${p.y}`} stroke="transparent" strokeWidth={12} />
                <path
                  d={`M${c.x} ${c.y}L${p.x} ${p.y}`}
                  stroke={colours[k]}
                  strokeWidth={2}
                  strokeDasharray={tool === "resize" ? "2 3" : undefined}
                />
                <circle cx={p.x} cy={p.y} r={5.5} fill={colours[k]} />
                <text x={p.x + 8} y={p.y + 4} fontSize={10} fill={colours[k]}>
                  {along ? measures[k] : names[k]}
                </text>
              </g>
            ))}
        <circle
          cx={c.x}
          cy={c.y}
          r={tool === "turn" ? 3 : 7}
          fill={tool === "turn" ? "var(--ink)" : "transparent"}
          stroke="var(--ink)"
          strokeWidth={1.5}
          className="pointer-events-auto cursor-move"
          {...hold(3)}
          data-testid="handle-free"
        />
        {words && (
          <text
            x={c.x + 12}
            y={c.y - 12}
            fontSize={11}
            fill="var(--ink)"
            stroke="var(--ground)"
            strokeWidth={3}
            paintOrder="stroke"
          >
            {words}
          </text>
        )}
      </svg>
      <Toolbar shot={shot} />
    </>
  );
}
