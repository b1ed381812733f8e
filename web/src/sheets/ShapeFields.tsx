import { useEdits } from "../api/queries";
import type { Part, Shape } from "../api/types.gen";
import { Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { Section } from "./Sheet";

const degrees = (v: number) => (v * Math.PI) / 180;

/** First measures of every shape, for a set of about a size in metres. */
export function shapes(s: number): Record<string, Shape> {
  const round = (v: number) => Number(v.toPrecision(2));
  s = round(s);
  return {
    box: { kind: "box", size: [s, s, s], bevel: round(s / 25) },
    cylinder: { kind: "cylinder", radius: round(s / 2), height: s, bevel: round(s / 40) },
    cone: { kind: "cone", radius: round(s / 2), top: 0, height: s },
    sphere: { kind: "sphere", radius: round(s / 2) },
    torus: { kind: "torus", radius: round(s / 2), thick: round(s / 8) },
    capsule: { kind: "capsule", radius: round(s / 4), height: round(s / 2) },
    plane: { kind: "plane", size: [4 * s, 0, 4 * s] },
    lathe: {
      kind: "lathe",
      points: [
        [0, 0, 0],
        [s / 2, 0, 0],
        [s / 3, s / 2, 0],
        [s / 2.5, s, 0],
        [0, s, 0],
      ],
    },
    tube: {
      kind: "tube",
      thick: round(s / 20),
      points: [
        [-s / 2, s / 20, 0],
        [0, s / 2, 0],
        [s / 2, s / 20, 0],
      ],
    },
    gear: {
      kind: "gear",
      gear: {
        module: round(s / 24),
        teeth: 24,
        pressure: degrees(20),
        width: round(s / 6),
        bore: round(s / 8),
        inside: false,
      },
    },
    "stepped disc": { kind: "stepped disc", radius: s, height: round(s / 4), bevel: round(s / 60) },
    slab: { kind: "slab", size: [2 * s, round(s / 4), 2 * s], bevel: round(s / 25) },
    column: { kind: "column", radius: round(s * 0.8), height: 2 * s, bevel: round(s / 60) },
    sweep: { kind: "sweep", size: [8 * s, 5 * s, 8 * s], radius: 2 * s },
  };
}

/** The measures of a shape; they stay editable for good. */
export function ShapeFields({ part }: { part: Part }) {
  const { edit } = useEdits();
  const s = part.shape!;
  const set = (change: Partial<Shape>) =>
    void edit({ setPart: { part: { ...part, shape: { ...s, ...change } } } });
  const mm = (label: string, value: number, change: (v: number) => void, min = 0) => (
    <NumberField
      key={label}
      label={label}
      value={value}
      kind="length"
      unit="mm"
      digits={3}
      min={min}
      onChange={change}
    />
  );
  const size = (i: number) => (v: number) => {
    const next = [...(s.size ?? [0, 0, 0])] as [number, number, number];
    next[i] = v;
    set({ size: next });
  };
  const fields =
    {
      box: "size bevel",
      cylinder: "radius height bevel sides",
      cone: "radius top height bevel sides",
      sphere: "radius sides",
      torus: "radius thick sides",
      capsule: "radius height sides",
      plane: "flat",
      lathe: "points sides",
      tube: "thick points",
      gear: "gear",
      "stepped disc": "radius height bevel",
      slab: "size bevel",
      column: "radius height bevel",
      sweep: "size radius",
    }[s.kind]?.split(" ") ?? [];
  const g = s.gear;
  const gear = (change: Partial<NonNullable<typeof g>>) => set({ gear: { ...g!, ...change } });
  const points = (i: number, k: number) => (v: number) => {
    const next = (s.points ?? []).map((p) => [...p] as [number, number, number]);
    next[i]![k] = v;
    set({ points: next });
  };
  return (
    <Section title="Measures">
      {(fields.includes("size") || fields.includes("flat")) && (
        <>
          {mm("Width", s.size?.[0] ?? 0, size(0))}
          {fields.includes("size") && mm("Height", s.size?.[1] ?? 0, size(1))}
          {mm("Depth", s.size?.[2] ?? 0, size(2))}
        </>
      )}
      {fields.includes("radius") &&
        mm(s.kind === "sweep" ? "Radius of the bend" : "Radius", s.radius ?? 0, (radius) => set({ radius }))}
      {fields.includes("top") && mm("Radius at the top", s.top ?? 0, (top) => set({ top }))}
      {fields.includes("thick") && mm("Radius of the section", s.thick ?? 0, (thick) => set({ thick }))}
      {fields.includes("height") && mm("Height", s.height ?? 0, (height) => set({ height }))}
      {fields.includes("bevel") && mm("Rounded edges", s.bevel ?? 0, (bevel) => set({ bevel }))}
      {fields.includes("sides") && (
        <NumberField
          label="Sides"
          value={s.sides || 96}
          kind="number"
          digits={0}
          whole
          min={3}
          max={1024}
          onChange={(v) => set({ sides: Math.round(v) })}
        />
      )}
      {fields.includes("points") && (
        <>
          {s.points?.map((p, i) => (
            <div key={i} className="flex items-center gap-1">
              <span className="w-5 text-[11px] text-quiet">{i + 1}</span>
              <div className="flex-1">
                {mm(
                  `${s.kind === "lathe" ? "Radius" : "x"} ${i + 1}`,
                  p[0],
                  points(i, 0),
                  s.kind === "lathe" ? 0 : -1e6,
                )}
              </div>
              <div className="flex-1">
                {mm(`${s.kind === "lathe" ? "Height" : "y"} ${i + 1}`, p[1], points(i, 1), -1e6)}
              </div>
            </div>
          ))}
          <div className="mt-1 flex gap-1.5">
            <button
              type="button"
              className="rounded-sm border border-line px-1.5 hover:bg-raised"
              onClick={() => {
                const last = s.points!.at(-1)!;
                const before = s.points!.at(-2)!;
                const next = last.map((v, k) => v + (v - before[k]!) * 0.5) as [number, number, number];
                set({
                  points: [...s.points!, s.kind === "lathe" ? [Math.max(0, next[0]), next[1], 0] : next],
                });
              }}
            >
              One more
            </button>
            <button
              type="button"
              disabled={(s.points?.length ?? 0) < 3}
              className="rounded-sm border border-line px-1.5 hover:bg-raised disabled:opacity-45"
              onClick={() => set({ points: s.points!.slice(0, -1) })}
            >
              One less
            </button>
          </div>
        </>
      )}
      {g && (
        <>
          {mm("Module", g.module, (module) => gear({ module }), 1e-7)}
          <NumberField
            label="Teeth"
            value={g.teeth}
            kind="number"
            digits={0}
            whole
            min={6}
            max={400}
            onChange={(v) => gear({ teeth: Math.round(v) })}
          />
          <NumberField
            label="Pressure angle"
            value={g.pressure / (2 * Math.PI)}
            kind="angle"
            unit="°"
            digits={2}
            onChange={(v) => gear({ pressure: v * 2 * Math.PI })}
          />
          {mm("Width", g.width, (width) => gear({ width }), 1e-7)}
          {mm(g.inside ? "Outer radius" : "Radius of the bore", g.bore, (bore) => gear({ bore }))}
          <Toggle
            label="Teeth inside a ring"
            on={g.inside}
            onChange={(inside) =>
              gear({ inside, bore: inside ? (g.module * (g.teeth + 6)) / 2 : (g.module * g.teeth) / 6 })
            }
          />
        </>
      )}
    </Section>
  );
}
