import { useEffect, useState, type RefObject } from "react";
import * as THREE from "three";
import type { ShotReply } from "../api/types.gen";
import { choose, useUi } from "../state/ui";
import { useBench } from "./benchStore";

interface Frame {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** A frame dragged in the bench that selects what lies wholly in it: whole groups before single parts. */
export function Marquee({ shot, over }: { shot: ShotReply; over: RefObject<HTMLDivElement | null> }) {
  const [frame, setFrame] = useState<Frame | null>(null);
  useEffect(() => {
    const el = over.current!;
    let from: [number, number] | null = null;
    const now = (e: PointerEvent): Frame => ({
      left: Math.min(from![0], e.clientX),
      top: Math.min(from![1], e.clientY),
      right: Math.max(from![0], e.clientX),
      bottom: Math.max(from![1], e.clientY),
    });
    const press = (e: PointerEvent) => {
      if (e.button !== 0 || (useUi.getState().picking !== "marquee" && !e.altKey)) return;
      e.stopImmediatePropagation(); // the bench does not turn, and nothing is clicked
      from = [e.clientX, e.clientY];
      el.setPointerCapture(e.pointerId);
    };
    const drag = (e: PointerEvent) => from && setFrame(now(e));
    const release = (e: PointerEvent) => {
      if (!from) return;
      e.stopImmediatePropagation();
      const f = now(e);
      from = null;
      setFrame(null);
      useUi.setState({ picking: null });
      if (f.right - f.left > 3 && f.bottom - f.top > 3) choose(inFrame(shot, f, el.getBoundingClientRect()));
    };
    el.addEventListener("pointerdown", press, { capture: true });
    el.addEventListener("pointermove", drag, { capture: true });
    el.addEventListener("pointerup", release, { capture: true });
    return () => {
      el.removeEventListener("pointerdown", press, { capture: true });
      el.removeEventListener("pointermove", drag, { capture: true });
      el.removeEventListener("pointerup", release, { capture: true });
    };
  }, [shot, over]);
  return (
    frame && (
      <div
        className="pointer-events-none fixed z-20 border border-dashed border-verdigris bg-verdigris/10"
        style={{
          left: frame.left,
          top: frame.top,
          width: frame.right - frame.left,
          height: frame.bottom - frame.top,
        }}
      />
    )
  );
}

function inFrame(shot: ShotReply, f: Frame, r: DOMRect): string[] {
  const { stage, eye } = useBench.getState();
  if (!stage || !eye) return [];
  const parts = shot.document.parts;
  const v = new THREE.Vector3();
  const seen = new Set(stage.objects().map((o) => o.userData.part as string));
  const held = new Map<string, boolean>(); // whether all that is seen of a part lies in the frame
  for (const p of parts) {
    if (!seen.has(p.id)) continue;
    const b = stage.bounds((id) => id === p.id);
    if (b.isEmpty()) continue;
    let all = true;
    for (let k = 0; k < 8 && all; k++) {
      v.set(k & 1 ? b.max.x : b.min.x, k & 2 ? b.max.y : b.min.y, k & 4 ? b.max.z : b.min.z).project(eye);
      const [x, y] = [r.left + ((v.x + 1) / 2) * r.width, r.top + ((1 - v.y) / 2) * r.height];
      all = v.z < 1 && x >= f.left && x <= f.right && y >= f.top && y <= f.bottom;
    }
    held.set(p.id, all);
  }
  const byId = new Map(parts.map((p) => [p.id, p]));
  const tables = new Set(parts.filter((_, i) => shot.shown[i]?.table).map((p) => p.id)); // picked in the tree alone
  const whole = new Map<string, boolean>(); // of groups
  for (const [id, all] of held)
    for (let p = byId.get(byId.get(id)!.parent); p; p = byId.get(p.parent))
      whole.set(p.id, (whole.get(p.id) ?? true) && all);
  const out = new Set<string>();
  for (const [id, all] of held) {
    if (!all) continue;
    let top = id;
    for (let p = byId.get(byId.get(id)!.parent); p && whole.get(p.id); p = byId.get(p.parent))
      if (!tables.has(p.id)) top = p.id;
    out.add(top);
  }
  return [...out];
}
