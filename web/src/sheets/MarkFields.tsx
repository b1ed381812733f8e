import { useState } from "react";
import { uploadFont } from "../api/client";
import { setPart } from "../api/edits";
import { useEdits, useServerState } from "../api/queries";
import type { Mark, Part, ShotWord as Word } from "../api/types.gen";
import { Button, Pick, Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { say } from "../state/notices";
import { Section } from "./Section";

/** What a mark is made from. Its parts are made anew; their moves, materials and places stay. */
export function MarkFields({ part }: { part: Part }) {
  const { edit } = useEdits();
  const m = part.mark!;
  const s = m.solid;
  const set = (change: Partial<Mark>) => void edit(setPart(part.id, { mark: change }));
  const solid = (change: Partial<typeof s>) => set({ solid: change as typeof s });
  return (
    <>
      {m.word && <WordFields word={m.word} set={(w) => set({ word: w as Word })} />}
      <Section title="Solid" note={m.word ? "word" : "drawing"}>
        <NumberField
          label="Depth"
          value={s.depth}
          kind="length"
          unit="mm"
          digits={3}
          min={1e-7}
          onChange={(depth) => solid({ depth })}
        />
        <Pick
          label="Front edge"
          value={s.bevel}
          choices={[
            { value: "none", name: "sharp" },
            { value: "chamfer", name: "chamfer" },
            { value: "round", name: "round" },
          ]}
          onChange={(bevel) => solid({ bevel })}
        />
        {s.bevel !== "none" && (
          <NumberField
            label="Width of the edge"
            value={s.width}
            kind="length"
            unit="mm"
            digits={3}
            min={0}
            onChange={(width) => solid({ width })}
          />
        )}
        {s.bevel === "round" && (
          <NumberField
            label="Segments"
            value={s.steps}
            kind="number"
            digits={0}
            whole
            min={1}
            max={32}
            onChange={(v) => solid({ steps: Math.round(v) })}
          />
        )}
        {s.bevel !== "none" && (
          <Toggle label="Back edge too" on={s.both} onChange={(both) => solid({ both })} />
        )}
        <NumberField
          label="Curves true to"
          value={m.tolerance}
          kind="length"
          unit="mm"
          digits={4}
          step={0.01}
          min={1e-8}
          onChange={(tolerance) => set({ tolerance })}
        />
      </Section>
    </>
  );
}

function WordFields({ word: w, set }: { word: Word; set: (w: Partial<Word>) => void }) {
  const shipped = useServerState().data?.fonts ?? [];
  const [text, setText] = useState<string | null>(null); // while it is being edited
  const [own, setOwn] = useState<{ value: string; name: string }[]>([]);
  const fonts = [...shipped.map((f) => ({ value: f, name: f })), ...own];
  if (!fonts.some((f) => f.value === w.font)) fonts.push({ value: w.font, name: "own font" });
  const upload = () => {
    const input = document.createElement("input");
    input.type = "file";
    input.accept = ".ttf,.otf";
    input.onchange = async () => {
      const file = input.files?.[0];
      if (!file) return;
      try {
        const f = await uploadFont(file);
        setOwn((list) => [...list, { value: f.hash, name: f.name }]);
        set({ font: f.hash });
      } catch (e) {
        say((e as Error).message);
      }
    };
    input.click();
  };
  return (
    <Section title="Word">
      <textarea
        aria-label="Text"
        rows={2}
        value={text ?? w.text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.stopPropagation()}
        onBlur={() => {
          if (text !== null && text.trim() !== "" && text !== w.text) set({ text });
          setText(null);
        }}
        className="w-full resize-y rounded-sm border border-line bg-ground px-1.5 py-1"
      />
      <Pick label="Font" value={w.font} choices={fonts} onChange={(font) => set({ font })} />
      <div className="flex justify-end">
        <Button onClick={upload}>Font file…</Button>
      </div>
      <NumberField
        label="Size of the em"
        value={w.size}
        kind="length"
        unit="mm"
        digits={2}
        min={1e-6}
        onChange={(size) => set({ size })}
      />
      <NumberField
        label="Between letters"
        value={w.spacing * 100}
        kind="percent"
        unit="%"
        digits={2}
        onChange={(v) => set({ spacing: v / 100 })}
      />
      <NumberField
        label="From line to line"
        value={w.leading * 100}
        kind="percent"
        unit="%"
        digits={1}
        min={1}
        onChange={(v) => set({ leading: v / 100 })}
      />
      <Pick
        label="Set"
        value={w.align}
        choices={["left", "centre", "right"].map((v) => ({ value: v, name: v }))}
        onChange={(align) => set({ align })}
      />
    </Section>
  );
}
