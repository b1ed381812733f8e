import { setPart } from "../api/edits";
import { useBake, useEdits } from "../api/queries";
import type { Part, ShotReply, Spread } from "../api/types.gen";
import { Button, Pick, Row, Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { say } from "../state/notices";
import { useUi } from "../state/ui";
import { usePicked } from "../views/pick";
import { Section } from "./Section";

const kinds = [
  { value: "row", name: "row" },
  { value: "grid", name: "grid" },
  { value: "ring", name: "ring" },
  { value: "path", name: "along a path" },
  { value: "scatter", name: "scattered" },
  { value: "surface", name: "scattered on a surface" },
];

export function CopiesFields({ shot, part }: { shot: ShotReply; part: Part }) {
  const { edit } = useEdits();
  const c = part.copies!;
  const set = (change: Partial<Spread>) => void edit(setPart(part.id, { copies: change }));
  const of = shot.document.parts.find((p) => p.id === c.of);
  const count = (i: number) => (v: number) => {
    const next = [...c.count] as [number, number, number];
    next[i] = Math.round(v);
    set({ count: next });
  };
  const step = (i: number) => (v: number) => {
    const next = [...c.step] as [number, number, number];
    next[i] = v;
    set({ step: next });
  };
  const mm = (label: string, value: number, change: (v: number) => void, min = -1e6) => (
    <NumberField
      key={label}
      label={label}
      value={value}
      kind="length"
      unit="mm"
      digits={2}
      min={min}
      onChange={change}
    />
  );
  const angle = (label: string, value: number, change: (v: number) => void) => (
    <NumberField
      key={label}
      label={label}
      value={value / (2 * Math.PI)}
      kind="angle"
      unit="°"
      digits={2}
      onChange={(v) => change(v * 2 * Math.PI)}
    />
  );
  usePicked("surface", (p) => {
    useUi.setState({ picking: null });
    if (p.part === part.id || p.part === c.of) say("Copies cannot be scattered on themselves.");
    else set({ on: p.part });
  });
  const grid = c.kind === "grid";
  const at = shot.document.parts.indexOf(part);
  const room = useBake(shot)?.spreads.find((s) => s.spread === at)?.copies; // of what is scattered some may have none
  return (
    <Section title="Copies" note={of ? `of ${of.name}` : "of nothing"}>
      <Pick label="Laid out in a" value={c.kind} choices={kinds} onChange={(kind) => set({ kind })} />
      {(grid ? ["Along x", "Along y", "Along z"] : ["Copies"]).map((label, i) => (
        <NumberField
          key={label}
          label={label}
          value={c.count[i]!}
          kind="number"
          digits={0}
          whole
          min={1}
          max={100000}
          onChange={count(i)}
        />
      ))}
      {(c.kind === "row" || grid) &&
        ["Step x", "Step y", "Step z"].map((label, i) => mm(label, c.step[i]!, step(i)))}
      {c.kind === "ring" && (
        <>
          {mm("Radius", c.radius ?? 0, (radius) => set({ radius }), 0)}
          {angle("Over (0 for all round)", c.sweep ?? 0, (sweep) => set({ sweep }))}
        </>
      )}
      {(c.kind === "ring" || c.kind === "path") && (
        <Toggle label="Turn along" on={c.face ?? false} onChange={(face) => set({ face })} />
      )}
      {c.kind === "path" && (
        <>
          {c.path?.map((p, i) => (
            <div key={i} className="flex gap-1">
              {[0, 2].map((k) => (
                <div key={k} className="flex-1">
                  {mm(`${k ? "z" : "x"} ${i + 1}`, p[k]!, (v) =>
                    set({
                      path: c.path!.map((q, n) =>
                        n === i ? (q.map((w, m) => (m === k ? v : w)) as [number, number, number]) : q,
                      ),
                    }),
                  )}
                </div>
              ))}
            </div>
          ))}
          <div className="mt-1 flex gap-1.5">
            <Button
              onClick={() =>
                set({
                  path: [
                    ...c.path!,
                    c.path!.at(-1)!.map((v, k) => 2 * v - c.path!.at(-2)![k]!) as [number, number, number],
                  ],
                })
              }
            >
              One more corner
            </Button>
            <Button disabled={(c.path?.length ?? 0) < 3} onClick={() => set({ path: c.path!.slice(0, -1) })}>
              One less
            </Button>
          </div>
        </>
      )}
      {c.kind === "scatter" && (
        <>
          {mm("Width", c.area?.[0] ?? 0, (v) => set({ area: [v, c.area?.[1] ?? 0] }), 0)}
          {mm("Depth", c.area?.[1] ?? 0, (v) => set({ area: [c.area?.[0] ?? 0, v] }), 0)}
        </>
      )}
      {c.kind === "surface" && (
        <Row label="On">
          <span className="flex min-w-0 items-center gap-1.5">
            <span className="truncate">
              {shot.document.parts.find((p) => p.id === c.on)?.name ?? (
                <span className="text-coral">nothing yet</span>
              )}
            </span>
            <Button onClick={() => useUi.setState({ picking: "surface" })}>Pick…</Button>
          </span>
        </Row>
      )}
      {(c.kind === "scatter" || c.kind === "surface") &&
        mm("At least apart", c.apart ?? 0, (apart) => set({ apart }), 0)}
      {room !== undefined && room < c.count[0]! && (
        <p className="text-[11px] text-coral">
          {room} of {c.count[0]} have room. More do on a larger area, or with less between them.
        </p>
      )}
      <NumberField
        label="Seed"
        value={c.seed ?? 0}
        kind="number"
        digits={0}
        whole
        min={0}
        max={1e9}
        onChange={(v) => set({ seed: Math.round(v) })}
      />
      {angle("Random turn, either way", c.turn ?? 0, (t) => set({ turn: t }))}
      <NumberField
        label="Random size, either way"
        value={(c.vary ?? 0) * 100}
        kind="percent"
        unit="%"
        digits={1}
        min={0}
        max={99}
        onChange={(v) => set({ vary: v / 100 })}
      />
      {mm("Random height, up to", c.rise ?? 0, (rise) => set({ rise }))}
      {(c.kind === "row" || c.kind === "grid") && (
        <Toggle label="About the middle" on={c.middle === true} onChange={(middle) => set({ middle })} />
      )}
      <NumberField
        label="Turn each k-th"
        value={c.every ?? 0}
        kind="number"
        digits={0}
        whole
        min={0}
        max={1000}
        onChange={(v) => set({ every: Math.round(v) })}
      />
      {(c.every ?? 0) > 0 && angle("by", c.flip ?? 0, (flip) => set({ flip }))}
      <NumberField
        label="Each later by"
        value={c.delay ?? 0}
        kind="time"
        unit="f"
        digits={2}
        onChange={(delay) => set({ delay })}
      />
      <p className="text-[11px] text-quiet">Each copy plays the moves of what it copies that much later.</p>
    </Section>
  );
}
