import { useEffect, useRef, useState, type RefObject } from "react";
import * as THREE from "three";
import { useCurves, useEdits } from "../api/queries";
import { useKinds } from "../api/kinds";
import type { ShotReply } from "../api/types.gen";
import { clock } from "../state/clock";
import { drawn } from "../state/signals";
import { useUi } from "../state/ui";
import { curveOf, valueAt } from "../score/curves";
import { useBench } from "./benchStore";
import { useCagePoints, type CageNow } from "./cage";
import { gripsOf, type Grip } from "./moveHandles";

type Triple = [number, number, number];

interface Seen {
  box: { left: number; top: number; w: number; h: number };
  grips: { grip: Grip; move: string; x: number; y: number }[];
  lines: { d: string; fine: boolean }[];
}

/** The handles of the selected part's moves, over the bench: what of them has a place is dragged there. */
export function MoveHandles({ shot, over }: { shot: ShotReply; over: RefObject<HTMLDivElement | null> }) {
  const { edit } = useEdits();
  const { selected, step, picking, recording } = useUi();
  const [seen, setSeen] = useState<Seen | null>(null);
  const [draft, setDraft] = useState<{ move: string; values: Record<string, unknown> } | null>(null); // while it is dragged
  const drag = useRef<{ grip: Grip; move: string } | null>(null);
  const kinds = useKinds()?.moves;
  const parts = shot.document.parts;
  const part = parts.find((p) => p.id === selected);
  const active = part !== undefined && part.moves.length > 0 && step === "Move" && picking === null;
  const cage = useCagePoints();
  const curves = useCurves(
    shot,
    part?.id ?? "",
    active && part.moves.some((m) => m.kind === "cage" && m.pins?.length),
  );

  useEffect(() => {
    const m = part?.moves.find((o) => o.id === draft?.move);
    const cage = shot.moves.find((r) => r.move === m?.id)?.values.points as CageNow | undefined;
    const { stage } = useBench.getState();
    if (!draft || !part || m?.kind !== "cage" || !cage || !stage) return;
    const amount = (shot.moves.find((r) => r.move === m.id)!.values.amount as number) || 1;
    const points = new Map<number, Triple>();
    for (const [name, to] of Object.entries(draft.values)) {
      const [, k, c] = /^point (\d+) ([xyz])$/.exec(name) ?? [];
      if (!k || !c) continue;
      const was = m.pins?.some((t) => t.value === name)
        ? valueAt(curveOf(curves, m.id, name), clock.frame)
        : cage.points[Number(k)]!["xyz".indexOf(c)]!;
      const by: Triple = points.get(Number(k)) ?? [0, 0, 0];
      by["xyz".indexOf(c)] = ((to as number) - (was ?? 0)) * amount;
      points.set(Number(k), by);
    }
    stage.previewCage(part.id, { points, size: cage.size });
  }, [draft, part, shot, curves]);

  useEffect(() => {
    const look = () => {
      const { stage, eye } = useBench.getState();
      const el = over.current;
      if (!active || !stage || !eye || !el) return setSeen(null);
      const r = el.getBoundingClientRect();
      const p = el.offsetParent!.getBoundingClientRect();
      const place = (id: string) => {
        const i = parts.findIndex((q) => q.id === id);
        return i >= 0 ? stage.worldOf(i, clock.frame) : undefined;
      };
      const own = place(part.id);
      if (!own) return setSeen(null);
      const parent = place(part.parent) ?? new THREE.Matrix4();
      const size = stage.bounds().getSize(new THREE.Vector3()).length() || 1;
      const screen = (v: THREE.Vector3) => {
        const q = v.clone().project(eye);
        return q.z > 1 ? null : { x: ((q.x + 1) / 2) * r.width, y: ((1 - q.y) / 2) * r.height };
      };
      const out: Seen = {
        box: { left: r.left - p.left, top: r.top - p.top, w: r.width, h: r.height },
        grips: [],
        lines: [],
      };
      for (const m of part.moves) {
        const kind = kinds?.find((k) => k.kind === m.kind);
        const now = shot.moves.find((r) => r.move === m.id)?.values;
        if (m.muted || !kind || !now) continue;
        if (recording && !kind.handles.some((h) => h.is === "cage")) continue; // they would change what is not pinned
        const pinned = Object.fromEntries(
          (m.pins ?? []).map((t) => [t.value, valueAt(curveOf(curves, m.id, t.value), clock.frame)]),
        );
        const values = { ...now, ...pinned, ...(draft?.move === m.id ? draft.values : {}) };
        const got = gripsOf(kind, values, {
          part,
          parent,
          own,
          shot: shot.document,
          worldOf: place,
          reach: size * 0.4,
          move: m.id,
          chosen: cage.move === m.id ? cage.chosen : [],
        });
        for (const grip of got.grips) {
          const at = screen(grip.at);
          if (at) out.grips.push({ grip, move: m.id, ...at });
        }
        for (const l of got.lines) {
          const points = l.map(screen);
          if (points.every((q) => q !== null))
            out.lines.push({
              d: points.map((q, i) => `${i ? "L" : "M"}${q.x.toFixed(1)} ${q.y.toFixed(1)}`).join(""),
              fine: kind.handles.some((h) => h.is === "cage"),
            });
        }
      }
      setSeen(out);
    };
    look();
    return drawn.hear(look);
  }, [active, part, parts, over, draft, shot, kinds, cage, curves, recording]);

  if (!active || !seen || (seen.grips.length === 0 && seen.lines.length === 0)) return null;

  const change = (e: React.PointerEvent) => {
    const d = drag.current;
    const eye = useBench.getState().eye;
    if (!d || !eye) return null;
    const r = over.current!.getBoundingClientRect();
    const ray = new THREE.Raycaster();
    ray.setFromCamera(
      new THREE.Vector2(((e.clientX - r.left) / r.width) * 2 - 1, 1 - ((e.clientY - r.top) / r.height) * 2),
      eye,
    );
    // Along the plane of the handle; with Alt, or where it has none, facing the eye.
    const facing = new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 2);
    const normal = e.altKey || d.grip.plane.length() < 0.5 ? facing : d.grip.plane;
    const hit = ray.ray.intersectPlane(
      new THREE.Plane().setFromNormalAndCoplanarPoint(normal, d.grip.at),
      new THREE.Vector3(),
    );
    return hit && { move: d.move, values: d.grip.to(hit) };
  };
  return (
    <svg
      className="pointer-events-none absolute z-10 overflow-hidden"
      style={{ left: seen.box.left, top: seen.box.top, width: seen.box.w, height: seen.box.h }}
      data-testid="move-handles"
    >
      {seen.lines.map((l, i) => (
        <path
          key={i}
          d={l.d}
          fill="none"
          stroke="var(--brass)"
          {...(l.fine ? { strokeWidth: 1, opacity: 0.5 } : { strokeWidth: 1.3, strokeDasharray: "5 4" })}
        />
      ))}
      {seen.grips.map((g, i) => (
        <circle
          key={i}
          cx={g.x}
          cy={g.y}
          r={g.grip.press ? 4 : 5}
          fill={g.grip.press && !g.grip.chosen ? "var(--panel)" : "var(--brass)"}
          stroke={g.grip.press ? "var(--brass)" : "var(--ground)"}
          strokeWidth={1.5}
          aria-pressed={g.grip.chosen}
          className="pointer-events-auto cursor-move touch-none"
          role="img"
          aria-label={`Handle: ${g.grip.name}`}
          onPointerDown={(e) => {
            e.stopPropagation();
            e.currentTarget.setPointerCapture(e.pointerId);
            clock.play(0);
            useBench.getState().hold(true);
            g.grip.press?.(e.shiftKey || e.ctrlKey || e.metaKey);
            if (g.grip.press && (e.shiftKey || e.ctrlKey || e.metaKey)) return;
            drag.current = { grip: g.grip, move: g.move };
          }}
          onPointerMove={(e) => {
            const to = change(e);
            if (to) setDraft(to);
          }}
          onPointerUp={() => {
            drag.current = null;
            useBench.getState().hold(false);
            if (draft)
              void edit({ setMove: { ...draft, frame: clock.frame, record: recording } }).then((done) => {
                setDraft(null);
                if (!done) useBench.getState().stage?.previewCage(part.id, null);
              });
          }}
          onPointerCancel={() => {
            drag.current = null;
            useBench.getState().hold(false);
            setDraft(null);
            useBench.getState().stage?.previewCage(part.id, null);
          }}
        >
          <title>{g.grip.name}. Drag it; with Alt, in the plane that faces you</title>
        </circle>
      ))}
    </svg>
  );
}
