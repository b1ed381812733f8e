import { useEdits } from "../api/queries";
import type { Part, ShotReply } from "../api/types.gen";
import { Button, TextField, Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { select, useUi } from "../state/ui";
import { ask } from "../screen/ask";
import { Coming, Section } from "./Sheet";

/** The selected part: its name, place and size. */
export function Arrange({ shot }: { shot: ShotReply }) {
  const id = useUi((s) => s.selected);
  const { edit } = useEdits();
  const part = shot.document.parts.find((p) => p.id === id);
  if (!part)
    return (
      <>
        <Section title="Arrange">
          <p className="text-quiet">
            Select a part in the tree or in the bench to name it, move it, resize it or hide it. A first click
            in the bench takes the whole group, the next one goes a level deeper.
          </p>
        </Section>
        <Plinths shot={shot} />
        <Coming>Handles in the bench, pivots, copies, backdrops and grouping are going to be here.</Coming>
      </>
    );
  const set = (change: Partial<Part>) => void edit({ setPart: { part: { ...part, ...change } } });
  const rest = (change: Partial<Part["rest"]>) => set({ rest: { ...part.rest, ...change } });
  const fitted = part.camera?.fitted ?? false;
  const remove = async () => {
    const sure = await ask({
      title: `Remove ${part.name}?`,
      text: "It goes with everything in it. Undo brings it back.",
      yes: "Remove",
    });
    if (sure !== null && (await edit({ removePart: { part: part.id } }))) select(null);
  };
  return (
    <>
      <Section title={part.name} note={part.kind}>
        <TextField label="Name" value={part.name} onChange={(name) => set({ name })} />
        <Toggle label="Shown" on={!part.hidden} onChange={(on) => set({ hidden: !on })} />
      </Section>
      <Section title="Place" note={part.parent ? "in what it is in" : "in the room"}>
        {(["x", "y", "z"] as const).map((axis, i) => (
          <NumberField
            key={axis}
            label={["Right", "Up", "Forwards"][i]!}
            value={part.rest.position[i]!}
            kind="length"
            unit="mm"
            digits={3}
            disabled={fitted}
            onChange={(v) => rest({ position: replaced(part.rest.position, i, v) })}
          />
        ))}
        {fitted && (
          <p className="text-[11px] text-quiet">
            The camera is kept fitted; let it go in Frame to place it by hand.
          </p>
        )}
      </Section>
      {(part.kind === "group" || part.kind === "solid") && (
        <Section title="Size">
          <NumberField
            label="Of its size at rest"
            value={part.rest.size[0] * 100}
            kind="percent"
            unit="%"
            digits={3}
            min={0.0001}
            onChange={(v) => {
              const k = v / 100 / part.rest.size[0];
              rest({ size: part.rest.size.map((s) => s * k) as Part["rest"]["size"] });
            }}
          />
        </Section>
      )}
      {part.plinth && <PlinthFields part={part} />}
      <div className="px-3 py-3">
        <Button onClick={() => void remove()}>Remove…</Button>
      </div>
    </>
  );
}

function replaced(v: [number, number, number], i: number, x: number): [number, number, number] {
  const out = [...v] as [number, number, number];
  out[i] = x;
  return out;
}

function Plinths({ shot }: { shot: ShotReply }) {
  return shot.document.parts.filter((p) => p.plinth).map((p) => <PlinthFields key={p.id} part={p} />);
}

function PlinthFields({ part }: { part: Part }) {
  const { edit } = useEdits();
  const disc = part.plinth!;
  const set = (change: Partial<typeof disc>) =>
    void edit({ setPart: { part: { ...part, plinth: { ...disc, ...change } } } });
  return (
    <Section title={part.name} note="disc">
      <NumberField
        label="Radius"
        value={disc.radius}
        kind="length"
        unit="mm"
        digits={2}
        min={0.00001}
        onChange={(radius) => set({ radius })}
      />
      <NumberField
        label="Height"
        value={disc.height}
        kind="length"
        unit="mm"
        digits={2}
        min={0.00001}
        onChange={(height) => set({ height })}
      />
      <NumberField
        label="Rounded edge"
        value={disc.bevel}
        kind="length"
        unit="mm"
        digits={2}
        min={0}
        onChange={(bevel) => set({ bevel })}
      />
    </Section>
  );
}
