import type { ReactNode } from "react";
import { bench3d } from "../views/bench3d";
import { fromLinear, toLinear } from "./srgb";
import { Name, Timing, type Told } from "./told";
import { Num, Swatch, Word } from "./words";

type Triple = [number, number, number];
const axes = ["x", "y", "z"] as const;

/** The reach of a part along its own axes, in its own measure. */
export function ownReach(t: Pick<Told, "shot" | "part">): { low: Triple; size: Triple } {
  const parts = t.shot.document.parts;
  const inside = new Set([t.part.id]);
  for (const p of parts) if (inside.has(p.parent)) inside.add(p.id);
  const box = bench3d.stage?.bounds((id) => inside.has(id));
  const world = bench3d.stage?.worldOf(parts.indexOf(t.part), 0);
  if (!box || box.isEmpty() || !world) return { low: [-0.05, -0.05, -0.05], size: [0.1, 0.1, 0.1] };
  const own = box.clone().applyMatrix4(world.clone().invert());
  return {
    low: own.min.toArray(),
    size: own.max
      .clone()
      .sub(own.min)
      .toArray()
      .map((v) => Math.max(v, 1e-6)) as Triple,
  };
}

/** Where a flex along an axis begins, and how long it is. */
export function flexReach(t: Pick<Told, "shot" | "part">, axis: number): { base: Triple; length: number } {
  const { low, size } = ownReach(t);
  return {
    base: low.map((v, k) => (k === axis ? v : v + size[k]! / 2)) as Triple,
    length: size[axis]!,
  };
}

/** Sentences of moves that change what a part looks like rather than where it is. */
export const changes: Record<string, (t: Told) => ReactNode> = {
  flex: (t) => {
    const m = t.move.flex!;
    const set = (c: Partial<typeof m>) => t.set({ flex: { ...m, ...c } });
    return (
      <>
        <Word
          label="How it flexes"
          value={m.shape}
          of={{ bend: "Bend", twist: "Twist" }}
          onChange={(shape) => set({ shape })}
        />{" "}
        <Name part={t.part} /> by{" "}
        <Num label="Angle" pin="angle" value={m.angle} kind="angle" onChange={(angle) => set({ angle })} />{" "}
        along its{" "}
        <Word
          label="Along"
          value={axes[m.axis]!}
          of={{ x: "width", y: "height", z: "depth" }}
          onChange={(v) => {
            const axis = axes.indexOf(v);
            set({
              axis,
              towards: axis === m.towards ? (axis + 1) % 3 : m.towards,
              ...flexReach(t, axis),
            });
          }}
        />
        {m.shape === "bend" && (
          <>
            {" towards its "}
            <Word
              label="Towards"
              value={axes[m.towards]!}
              of={Object.fromEntries(axes.filter((_, k) => k !== m.axis).map((a) => [a, a]))}
              onChange={(v) => set({ towards: axes.indexOf(v) })}
            />
          </>
        )}
        , over{" "}
        <Num
          label="Length that flexes"
          value={m.length}
          kind="length"
          min={1e-6}
          onChange={(length) => set({ length })}
        />{" "}
        from{" "}
        <Num
          label="Where it begins"
          value={m.base[m.axis]!}
          kind="length"
          onChange={(v) => set({ base: m.base.map((o, k) => (k === m.axis ? v : o)) as Triple })}
        />
        <Timing {...t} />
      </>
    );
  },

  look: (t) => {
    const m = t.move.look!;
    const set = (c: Partial<typeof m>) => t.set({ look: { ...m, ...c } });
    const colour = m.what === "colour" || m.what === "glow";
    const light = t.part.light !== undefined && t.part.light !== null;
    const share = (label: string, v: Triple, onChange: (v: Triple) => void, pin?: string) => (
      <Num
        label={label}
        pin={pin}
        scale={100}
        value={v[0] * 100}
        kind="percent"
        min={0}
        max={m.what === "opacity" ? 100 : undefined}
        onChange={(x) => onChange([x / 100, 0, 0])}
      />
    );
    return (
      <>
        Change the{" "}
        <Word
          label="What changes"
          value={m.what}
          of={
            light
              ? { strength: "strength", colour: "colour" }
              : { colour: "colour", glow: "glow", opacity: "opacity", strength: "strength of the glow" }
          }
          onChange={(what) => set({ what, own: true, ...firstLook(what) })}
        />{" "}
        of <Name part={t.part} /> from{" "}
        <Word
          label="From what"
          value={m.own ? "own" : "given"}
          of={{ own: "what it is", given: "another:" }}
          onChange={(v) => set({ own: v === "own" })}
        />{" "}
        {!m.own &&
          (colour ? (
            <Swatch
              label="From colour"
              value={fromLinear(m.from)}
              onChange={(c) => set({ from: toLinear(c) })}
            />
          ) : (
            share("From share", m.from, (from) => set({ from }))
          ))}{" "}
        to{" "}
        {colour ? (
          <Swatch label="To colour" value={fromLinear(m.to)} onChange={(c) => set({ to: toLinear(c) })} />
        ) : (
          share("To share", m.to, (to) => set({ to }), "to")
        )}
        <Timing {...t} />
      </>
    );
  },
};

/** First values of a change of look. */
export function firstLook(what: string): { from: Triple; to: Triple } {
  switch (what) {
    case "opacity":
      return { from: [1, 0, 0], to: [0, 0, 0] };
    case "strength":
      return { from: [1, 0, 0], to: [2, 0, 0] };
    case "glow":
      return { from: [0, 0, 0], to: [1, 0.55, 0.2] };
  }
  return { from: [0.8, 0.8, 0.8], to: [0.6, 0.03, 0.03] };
}
