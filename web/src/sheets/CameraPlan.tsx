import { useRef, useState } from "react";
import * as THREE from "three";
import { setPart } from "../api/edits";
import { useBake, useEdits } from "../api/queries";
import type { Part, ShotReply } from "../api/types.gen";
import { useFrame } from "../state/clock";
import { select, useUi } from "../state/ui";
import { matrixAt } from "../views/bake";
import { half, Plan, pointed, scaleOf } from "./Plan";

interface Spot {
  x: number; // metres from the middle
  z: number;
}

const levelled = (s: Spot) => ({ far: Math.hypot(s.x, s.z), round: Math.atan2(s.x, s.z) });

/**
 * Cameras from above, to scale: where each stands at the playhead, what it sees, the way it takes. One that nothing moves is
 * dragged round the middle, which it goes on seeing as it did; one that is fitted finds its distance by itself.
 */
export function CameraPlan({ shot, camera }: { shot: ShotReply; camera?: Part }) {
  const { edit } = useEdits();
  const frame = useFrame();
  const angle = useUi((s) => s.angle);
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<{ part: string; to: Spot } | null>(null);
  const bake = useBake(shot);
  const d = shot.document;
  if (!bake || bake.parts !== d.parts.length) return null;
  const { middle, size } = shot.subject as { middle: [number, number, number]; size: number };
  const spot = (x: number, z: number): Spot => ({ x: x - middle[0], z: z - middle[2] });
  const all = d.parts.flatMap((part, i) => {
    if (!part.camera) return [];
    const m = matrixAt(bake, i, frame);
    const count = Math.min(96, d.frames);
    const way = Array.from({ length: count }, (_, k) =>
      matrixAt(bake, i, Math.floor((k * d.frames) / count)),
    );
    const moves = way.some((q) => q.some((v, k) => v !== way[0]![k]));
    return [
      { part, moves, m, way: moves ? way.map((q) => spot(q[12]!, q[14]!)) : [], at: spot(m[12]!, m[14]!) },
    ];
  });
  if (all.length === 0) return null;
  const angles = (d.angles ?? []).map((a) => ({ a, at: spot(a.position[0]!, a.position[2]!) }));
  const reach = Math.max(
    1.5 * size,
    ...all.flatMap((c) => [c.at, ...c.way]).map((s) => levelled(s).far),
    ...angles.map((a) => levelled(a.at).far),
  );
  const scale = scaleOf(reach);
  const x = (s: Spot) => half + s.x * scale;
  const y = (s: Spot) => half + s.z * scale;
  const dropped = (c: (typeof all)[number], to: Spot) => {
    const [from, now] = [levelled(c.at), levelled(to)];
    const turn = new THREE.Quaternion().setFromAxisAngle(new THREE.Vector3(0, 1, 0), now.round - from.round);
    const { id, camera: lens, rest } = c.part;
    if (lens!.fitted) {
      const rotation = turn.multiply(new THREE.Quaternion(...rest.rotation)).toArray();
      return void edit(setPart(id, { rest: { rotation } })).then(() => setDrag(null));
    }
    const further = now.far - from.far;
    void edit({
      transform: {
        parts: [id],
        about: middle,
        move: [Math.sin(now.round) * further, 0, Math.cos(now.round) * further],
        turn: turn.toArray(),
        size: 1,
      },
    }).then(() => setDrag(null));
  };
  return (
    <Plan label="Camera plan, from above" reach={reach} size={size} svg={svg}>
      {angles.map(({ a, at }) => (
        <path
          key={a.id}
          d={`M${x(at)} ${y(at) - 4}l4 4l-4 4l-4 -4z`}
          className={`cursor-pointer ${a.id === angle ? "fill-verdigris" : "fill-none"} stroke-quiet`}
          role="button"
          aria-label={`Angle ${a.name}`}
          onClick={() => useUi.setState({ angle: a.id === angle ? null : a.id })}
        >
          <title>{a.name}</title>
        </path>
      ))}
      {all.map((c) => {
        const own = c.part.camera!;
        const on = camera?.id === c.part.id;
        const used = d.camera === c.part.id;
        const colour = on ? "var(--verdigris)" : used ? "var(--ink)" : "var(--quiet)";
        const free = !c.part.locked && !c.moves;
        const to = drag?.part === c.part.id ? drag.to : c.at;
        // Level parts of where it looks and of the sides of what it sees.
        const view = shot.optics[c.part.id];
        const turned = levelled(to).round - levelled(c.at).round;
        const along = (u: number) => {
          const v = new THREE.Vector3(u * (view?.width ?? 0.3), 0, -1).transformDirection(
            new THREE.Matrix4().fromArray(c.m),
          );
          return v.applyAxisAngle(new THREE.Vector3(0, 1, 0), turned);
        };
        const long = levelled(to).far + size;
        const edge = (u: number) => {
          const v = along(own.across ? 0 : u);
          const level = Math.hypot(v.x, v.z) || 1;
          return { x: to.x + (v.x / level) * long, z: to.z + (v.z / level) * long };
        };
        return (
          <g
            key={c.part.id}
            role="button"
            tabIndex={0}
            aria-label={`${c.part.name}${used ? ", in use" : ""}`}
            aria-pressed={on}
            className={`outline-none focus-visible:[&>text]:fill-verdigris ${free ? "cursor-grab" : "cursor-pointer"}`}
            onKeyDown={(e) => e.key === "Enter" && select(c.part.id)}
            onPointerDown={(e) => {
              e.currentTarget.setPointerCapture(e.pointerId);
              select(c.part.id);
            }}
            onPointerMove={(e) => {
              if (!free || !e.currentTarget.hasPointerCapture(e.pointerId) || !e.buttons) return;
              const [px, py] = pointed(svg.current!, e);
              const p = { x: px / scale, z: py / scale };
              const far = own.fitted ? levelled(c.at).far : Math.max(levelled(p).far, 0.05 * size);
              const { round } = levelled(p);
              setDrag({ part: c.part.id, to: { x: Math.sin(round) * far, z: Math.cos(round) * far } });
            }}
            onPointerUp={() => drag && dropped(c, drag.to)}
            onPointerCancel={() => setDrag(null)}
          >
            {c.way.length > 0 && (
              <path
                d={c.way.map((s, k) => `${k ? "L" : "M"}${x(s)} ${y(s)}`).join("")}
                fill="none"
                stroke={colour}
                strokeDasharray="3 3"
              />
            )}
            <path
              d={`M${x(edge(-1))} ${y(edge(-1))}L${x(to)} ${y(to)}L${x(edge(1))} ${y(edge(1))}`}
              fill={colour}
              fillOpacity={on ? 0.12 : 0.05}
              stroke={colour}
              strokeOpacity={on || used ? 0.8 : 0.35}
              pointerEvents="none"
            />
            <circle cx={x(to)} cy={y(to)} r={12} fill="transparent" />
            <circle cx={x(to)} cy={y(to)} r={4} fill={colour} />
            <text
              x={x(to) + (to.x < 0 ? 9 : -9)}
              y={y(to) + (y(to) > half ? -9 : 16)}
              textAnchor={to.x < 0 ? "start" : "end"}
              className={`text-[10px] ${on ? "fill-verdigris" : "fill-quiet"}`}
            >
              {all.length <= 8 || on ? c.part.name : ""}
            </text>
          </g>
        );
      })}
    </Plan>
  );
}
