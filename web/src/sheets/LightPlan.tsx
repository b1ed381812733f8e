import { useRef, useState } from "react";
import { useBake, useEdits } from "../api/queries";
import type { LightPlace, Part, ShotReply } from "../api/types.gen";
import { select, useUi } from "../state/ui";
import { matrixAt } from "../views/bake";
import { half, Plan, pointed, scaleOf, side } from "./Plan";

interface Drag {
  part: string;
  left: number;
  distance: number;
}

/** Lights from above, to scale, with the object in the middle and the front below: dragged to where they are wanted. */
export function LightPlan({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const selected = useUi((s) => s.selected);
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const d = shot.document;
  const bake = useBake(shot);
  const byId = new Map(d.parts.map((p) => [p.id, p]));
  const lights = shot.lights.flatMap((place) => {
    const part = byId.get(place.part);
    return part ? [{ part, place }] : [];
  });
  const first = lights[0]?.place;
  if (!first) return null;
  const suns = (p: Part) => p.light!.kind === "sun";
  const reach = Math.max(
    2 * first.size,
    ...lights.filter((l) => !suns(l.part)).map((l) => l.place.distance * Math.cos(l.place.high)),
  );
  const scale = scaleOf(reach);
  const out = (l: { part: Part; place: LightPlace }) => {
    const now = drag?.part === l.part.id ? drag : null;
    const left = now?.left ?? l.place.left;
    const far = suns(l.part)
      ? half - 26
      : (now?.distance ?? l.place.distance * Math.cos(l.place.high)) * scale;
    return { x: half - Math.sin(left) * far, y: half + Math.cos(left) * far, left };
  };
  const at = (e: React.PointerEvent, l: { part: Part; place: LightPlace }): Drag => {
    const [x, y] = pointed(svg.current!, e);
    const level = Math.hypot(x, y) / scale;
    return {
      part: l.part.id,
      left: Math.atan2(-x, y),
      distance: suns(l.part) ? l.place.distance : Math.max(level, 0.05 * first.size),
    };
  };
  const eye = d.parts.findIndex((p) => p.id === d.camera);
  const camera = bake && eye >= 0 && eye < bake.parts ? matrixAt(bake, eye, 0) : null;
  return (
    <Plan label="Light plan, from above" reach={reach} size={first.size} svg={svg}>
      {camera && <Eye x={camera[12]!} z={camera[14]!} middle={first.middle as number[]} scale={scale} />}
      {lights.map((l) => {
        const p = out(l);
        const own = l.part.light!;
        const wide = (own.width ?? 2 * (own.radius ?? 0)) * scale;
        const on = selected === l.part.id;
        const colour = l.part.hidden ? "var(--quiet)" : on ? "var(--verdigris)" : "var(--ink)";
        const free = !l.part.locked && l.part.moves.length === 0 && !l.part.tracks?.length;
        return (
          <g
            key={l.part.id}
            role="button"
            tabIndex={0}
            aria-label={`${l.part.name}, ${Math.round((Math.abs(p.left) * 180) / Math.PI)} degrees ${p.left < 0 ? "right" : "left"}`}
            aria-pressed={on}
            className={`outline-none focus-visible:[&>text]:fill-verdigris ${free ? "cursor-grab" : "cursor-pointer"}`}
            onKeyDown={(e) => e.key === "Enter" && select(l.part.id)}
            onPointerDown={(e) => {
              e.currentTarget.setPointerCapture(e.pointerId);
              select(l.part.id);
            }}
            onPointerMove={(e) => {
              if (free && e.currentTarget.hasPointerCapture(e.pointerId) && e.buttons) setDrag(at(e, l));
            }}
            onPointerUp={() => {
              if (drag)
                void edit({
                  placeLight: {
                    part: l.part.id,
                    left: drag.left,
                    ...(suns(l.part)
                      ? {}
                      : { distance: drag.distance / Math.max(0.02, Math.cos(l.place.high)) }),
                  },
                }).then(() => setDrag(null));
            }}
            onPointerCancel={() => setDrag(null)}
          >
            <line
              x1={half}
              y1={half}
              x2={p.x}
              y2={p.y}
              stroke={colour}
              strokeDasharray="2 4"
              opacity={on ? 0.6 : 0.15}
            />
            <g transform={`translate(${p.x} ${p.y}) rotate(${(p.left * 180) / Math.PI})`}>
              <rect x={-14} y={-12} width={28} height={24} fill="transparent" />
              {own.kind === "bulb" || own.kind === "spot" ? (
                <circle
                  r={Math.max(3, wide / 2)}
                  fill={own.kind === "bulb" ? colour : "none"}
                  stroke={colour}
                />
              ) : own.kind === "sun" ? (
                <>
                  <circle r={4} fill={colour} />
                  {[0, 45, 90, 135].map((a) => (
                    <line key={a} x1={-8} x2={8} y1={0} y2={0} transform={`rotate(${a})`} stroke={colour} />
                  ))}
                </>
              ) : (
                <rect x={-Math.max(6, wide) / 2} y={-2} width={Math.max(6, wide)} height={4} fill={colour} />
              )}
            </g>
            <text
              x={p.x + (p.x < half - 30 ? 10 : p.x > half + 30 ? -10 : 0)}
              y={Math.min(side - 16, Math.max(22, Math.abs(p.x - half) > 30 ? p.y + 3 : p.y - 9))}
              textAnchor={p.x < half - 30 ? "start" : p.x > half + 30 ? "end" : "middle"}
              className={`text-[10px] ${on ? "fill-verdigris" : "fill-quiet"}`}
            >
              {lights.length <= 12 || on ? l.part.name : ""}
            </text>
          </g>
        );
      })}
    </Plan>
  );
}

/** The camera in use, or an arrow to it at the edge where it stands further off. */
function Eye({ x, z, middle, scale }: { x: number; z: number; middle: number[]; scale: number }) {
  const [dx, dz] = [(x - middle[0]!) * scale, (z - middle[2]!) * scale];
  const far = Math.hypot(dx, dz) || 1;
  const k = Math.min(1, (half - 16) / far);
  const angle = (Math.atan2(dx, -dz) * 180) / Math.PI; // its opening is towards the middle
  return (
    <g transform={`translate(${half + dx * k} ${half + dz * k}) rotate(${angle})`}>
      <title>the camera in use</title>
      <path d="M-8 16 L0 0 L8 16" className="fill-none stroke-ink" />
      <circle r={2.5} className="fill-ink" />
    </g>
  );
}
