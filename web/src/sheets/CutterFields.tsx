import { setPart } from "../api/edits";
import { useEdits } from "../api/queries";
import type { Part, ShotReply } from "../api/types.gen";
import { Button, ColorField, Pick, Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { useUi } from "../state/ui";
import { Section } from "./Section";
import { fromLinear, toLinear } from "./srgb";

type Cut = NonNullable<Part["cut"]>;

const shapes = [
  { value: "slab", name: "slab", note: "between two planes" },
  { value: "box", name: "box", note: "with rounded edges" },
  { value: "cylinder", name: "cylinder" },
  { value: "sphere", name: "sphere" },
  { value: "part", name: "another part", note: "closed, best hidden" },
];

/** What a cutter takes away, and from what. */
export function CutterFields({ shot, part }: { shot: ShotReply; part: Part }) {
  const { edit } = useEdits();
  const chosen = useUi((s) => s.chosen);
  const cut = part.cut!;
  const set = (change: Partial<Record<keyof Cut, unknown>>) => void edit(setPart(part.id, { cut: change }));
  const parts = shot.document.parts;
  const can = parts.filter((p) => ["solid", "shape", "group", "plinth", "copies"].includes(p.kind));
  const mesh = can.filter((p) => p.mesh || p.shape);
  const side = (label: string, k: 0 | 1 | 2) => (
    <NumberField
      label={label}
      value={cut.size[k]}
      kind="length"
      unit="mm"
      digits={3}
      min={1e-6}
      onChange={(v) => set({ size: cut.size.map((o, n) => (n === k ? v : o)) })}
    />
  );
  const to = (shape: string) => {
    const [w, h, d] = cut.size.map((v) => (v > 0 ? v : 0.05)) as [number, number, number];
    if (shape === "box") return set({ shape, size: [w, h, d], radius: Math.min(w, h, d) / 10 });
    if (shape === "part") return mesh[0] && set({ shape, of: mesh[0].id });
    const round = cut.shape === "cylinder" || cut.shape === "sphere"; // else its radius is that of edges
    set({ shape, size: [w, h, d], radius: (round && cut.radius) || Math.min(w, d) / 2 });
  };
  return (
    <Section title="Cuts" note={cut.shape}>
      <Pick label="Shape" value={cut.shape} choices={shapes} onChange={to} />
      {cut.shape === "box" && side("Width, x", 0)}
      {(cut.shape === "box" || cut.shape === "cylinder") && side("Height, y", 1)}
      {cut.shape === "slab" && side("Thickness, y", 1)}
      {cut.shape === "box" && side("Depth, z", 2)}
      {["box", "cylinder", "sphere"].includes(cut.shape) && (
        <NumberField
          label={cut.shape === "box" ? "Radius of its edges" : "Radius"}
          value={cut.radius ?? 0}
          kind="length"
          unit="mm"
          digits={3}
          min={cut.shape === "box" ? 0 : 1e-6}
          max={cut.shape === "box" ? Math.min(...cut.size) / 2 : undefined}
          onChange={(radius) => set({ radius })}
        />
      )}
      {cut.shape === "part" && (
        <Pick
          label="Which part"
          value={cut.of ?? ""}
          choices={mesh.map((p) => ({ value: p.id, name: p.name }))}
          onChange={(of) => set({ of })}
        />
      )}
      <Pick
        label="Cuts"
        value={cut.parts.length === 1 ? cut.parts[0]! : cut.parts.length === 0 ? "" : "several"}
        choices={[
          { value: "", name: "everything" },
          ...(cut.parts.length > 1 ? [{ value: "several", name: `${cut.parts.length} parts` }] : []),
          ...can.map((p) => ({ value: p.id, name: p.name })),
        ]}
        onChange={(id) => id !== "several" && set({ parts: id ? [id] : [] })}
      />
      {chosen.length > 1 && (
        <Button onClick={() => set({ parts: chosen.filter((id) => can.some((p) => p.id === id)) })}>
          Cut what is selected
        </Button>
      )}
      <Toggle
        label="Faces in a colour of their own"
        on={!!cut.color}
        onChange={(on) => set({ color: on ? [0.55, 0.09, 0.05] : null })}
      />
      {cut.color && (
        <ColorField
          label="Cut faces"
          value={fromLinear(cut.color as [number, number, number])}
          onChange={(c) => set({ color: toLinear(c) })}
        />
      )}
    </Section>
  );
}
