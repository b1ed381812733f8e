import { useEffect, useRef, useState, type RefObject } from "react";
import * as THREE from "three";
import { useEdits } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { clock } from "../state/clock";
import { drawn } from "../state/signals";
import { useUi } from "../state/ui";
import { bench3d } from "./bench3d";
import { pickedFrom } from "./pick";

const colours = ["var(--coral)", "var(--fern)", "var(--heather)"];
const names = ["x", "y", "z"];
const length = 74; // pixels of a handle

interface Seen {
  centre: THREE.Vector2;
  pixel: number; // metres that one pixel is, at the centre
  pivot: THREE.Vector3;
  axes: THREE.Vector3[];
  ends: THREE.Vector2[];
  rings: string[]; // as SVG paths
}

interface Drag {
  axis: number; // 0 to 2, or 3 for free
  from: THREE.Vector2; // pointer
  pivot: THREE.Vector3;
  axes: THREE.Vector3[];
  pixel: number;
  centre: THREE.Vector2;
  move: THREE.Vector3;
  turn: THREE.Quaternion;
  size: number;
}

/**
 * The handles of what is selected: pins to drag it along an axis, stitched rings to turn it, and the
 * pins again to resize it. They lie over the bench, always the same size on the screen.
 */
export function BenchHandles({ shot, over }: { shot: ShotReply; over: RefObject<HTMLDivElement | null> }) {
  const { edit } = useEdits();
  const { chosen, tool, axes, snap, step, picking, recording } = useUi();
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

  useEffect(() => {
    const look = () => {
      const { stage, eye } = bench3d;
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
        axes === "own"
          ? world
          : axes === "parent"
            ? stage.worldOf(
                parts.findIndex((q) => q.id === part.parent),
                clock.frame,
              )
            : undefined;
      const dirs =
        d?.axes ??
        [0, 1, 2].map((k) =>
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

    bench3d.invalidate();
    return drawn.hear(look);
  }, [active, part, parts, axes, over, tool]);

  if (!active || !seen || !box) return <Toolbar shot={shot} />;

  const begin = (axis: number) => (e: React.PointerEvent) => {
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    clock.play(0);
    bench3d.hold(true);
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
    };
  };

  const follow = (e: React.PointerEvent) => {
    const d = drag.current;
    const { stage, eye } = bench3d;
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
      setWords(`${(d.move.length() * 1000).toPrecision(4)} mm`);
    } else if (tool === "turn" && a) {
      const c = new THREE.Vector2(r.left + d.centre.x, r.top + d.centre.y);
      const away = a.dot(new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 2)) > 0 ? 1 : -1;
      let angle = -away * turnBetween(d.from.clone().sub(c), now.clone().sub(c));
      if (steps) angle = rounded(angle, Math.PI / 12);
      d.turn.setFromAxisAngle(a, angle);
      setWords(`${((angle * 180) / Math.PI).toFixed(1)}°`);
    } else if (tool === "resize") {
      const c = new THREE.Vector2(r.left + d.centre.x, r.top + d.centre.y);
      d.size = Math.max(0.001, now.distanceTo(c) / Math.max(8, d.from.distanceTo(c)));
      if (steps) d.size = Math.max(0.1, rounded(d.size, 0.1));
      setWords(`${(d.size * 100).toFixed(1)} %`);
    }
    stage.preview(new Set(inside(shot, chosen)), matrixOf(d));
  };

  const end = () => {
    const d = drag.current;
    drag.current = null;
    bench3d.hold(false);
    setWords("");
    if (!d) return;
    const still = d.move.length() === 0 && d.size === 1 && d.turn.w > 1 - 1e-12;
    if (still) return bench3d.stage?.preview(null);
    void edit({
      transform: {
        parts: chosen,
        about: d.pivot.toArray(),
        move: d.move.toArray(),
        turn: d.turn.toArray() as [number, number, number, number],
        size: d.size,
        ...(pinning ? { at: clock.frame } : {}),
      },
    }).then((ok) => ok || bench3d.stage?.preview(null));
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
                {...hold(tool === "resize" ? 3 : k)}
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
                  {names[k]}
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

/** The parts that are chosen, with all in them. */
export function inside(shot: ShotReply, chosen: string[]): string[] {
  const set = new Set(chosen);
  for (const p of shot.document.parts) if (set.has(p.parent)) set.add(p.id);
  return [...set];
}

const rounded = (v: number, step: number) => Math.round(v / step) * step;

/** A round number of metres near v: 1, 2 or 5 times a power of ten. */
function roundStep(v: number): number {
  const p = Math.pow(10, Math.floor(Math.log10(v)));
  return [1, 2, 5, 10].map((k) => k * p).find((s) => s >= v) ?? p;
}

function turnBetween(a: THREE.Vector2, b: THREE.Vector2): number {
  return Math.atan2(a.x * b.y - a.y * b.x, a.dot(b));
}

function matrixOf(d: Drag): THREE.Matrix4 {
  const m = new THREE.Matrix4().compose(
    d.pivot.clone().add(d.move),
    d.turn,
    new THREE.Vector3(d.size, d.size, d.size),
  );
  return m.multiply(new THREE.Matrix4().makeTranslation(d.pivot.clone().negate()));
}

/** Where a free drag snaps to: on other parts, or the floor. */
function snapped(
  pointer: THREE.Vector2,
  r: DOMRect,
  stage: NonNullable<typeof bench3d.stage>,
  eye: THREE.PerspectiveCamera,
  snap: string,
  own: Set<string>,
): THREE.Vector3 | null {
  const at = new THREE.Vector2(
    ((pointer.x - r.left) / r.width) * 2 - 1,
    1 - ((pointer.y - r.top) / r.height) * 2,
  );
  const ray = new THREE.Raycaster();
  ray.setFromCamera(at, eye);
  if (snap === "floor")
    return ray.ray.intersectPlane(new THREE.Plane(new THREE.Vector3(0, 1, 0), 0), new THREE.Vector3());
  if (snap !== "vertices" && snap !== "edges" && snap !== "faces") return null;
  const hit = ray
    .intersectObjects(stage.objects(), true)
    .find((h) => !own.has(h.object.userData.part as string));
  if (!hit) return null;
  const p = pickedFrom(hit, eye, r);
  return snap === "vertices" ? p.vertex : snap === "edges" ? p.edge : p.point;
}

/** The bench's own words: which handles, along which axes, what they snap to. */
function Toolbar({ shot }: { shot: ShotReply }) {
  const { step, tool, axes, snap, picking, chosen, recording } = useUi();
  if (step !== "Arrange" && !recording && picking === null) return null;
  if (picking !== null)
    return (
      <p
        className="absolute top-[34px] right-0 left-0 z-20 mx-auto w-fit max-w-full truncate rounded-sm bg-verdigris px-2 text-[11px] text-on-verdigris"
        role="status"
      >
        {
          {
            pivot: "Click where the pivot goes",
            hole: "Click inside a round hole",
            from: "Click a face of the part",
            to: "Click the face to meet",
            point: "Click a point",
            diameter: "Click inside a round hole or on a pin",
            thickness: "Click a wall",
            surface: "Click the surface to scatter on",
            marquee: "Drag round what to select",
            part: "Click the part that is meant",
            axis: "Click a face that looks along the axis",
            place: "Click the place",
          }[picking]
        }{" "}
        <button type="button" className="underline" onClick={() => useUi.setState({ picking: null })}>
          leave it
        </button>
      </p>
    );
  const cell = (on: boolean) => `px-1.5 ${on ? "bg-verdigris/25 text-ink" : "text-quiet hover:text-ink"}`;
  const next = <T extends string>(list: readonly T[], now: T) => list[(list.indexOf(now) + 1) % list.length]!;
  return (
    <div className="absolute top-[38px] right-1 z-10 flex items-center overflow-hidden rounded-sm border border-line bg-panel text-[11px]">
      <button
        type="button"
        className={cell(false)}
        title="Drag a frame round what to select; Alt and drag does so too"
        onClick={() => useUi.setState({ picking: "marquee" })}
      >
        marquee
      </button>
      {(chosen.length > 0 ? (["drag", "turn", "resize"] as const) : []).map((t) => (
        <button
          key={t}
          type="button"
          aria-pressed={tool === t}
          className={cell(tool === t)}
          onClick={() => useUi.setState({ tool: t })}
          title={{ drag: "D", turn: "T", resize: "Z" }[t]}
        >
          {t}
        </button>
      ))}
      {chosen.length > 0 && shot && (
        <>
          <button
            type="button"
            className={cell(false) + " border-l border-line"}
            title="The axes that the handles follow"
            onClick={() => useUi.setState({ axes: next(["room", "parent", "own"] as const, axes) })}
          >
            {axes}
          </button>
          <button
            type="button"
            className={cell(snap !== "free") + " border-l border-line"}
            title="What dragging snaps to"
            onClick={() =>
              useUi.setState({
                snap: next(["free", "steps", "vertices", "edges", "faces", "floor"] as const, snap),
              })
            }
          >
            {snap}
          </button>
        </>
      )}
    </div>
  );
}
