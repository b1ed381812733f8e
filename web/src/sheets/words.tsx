import { Crosshair } from "lucide-react";
import { createContext, useContext, useId, useState } from "react";
import { client, keys, useCurves } from "../api/queries";
import type { Move, Part, ShotReply } from "../api/types.gen";
import { fromHex, Pick, toHex } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import type { Kind } from "../fields/quantity";
import { curveOf, pinAt, valueAt } from "../score/curves";
import { clock, useFrame } from "../state/clock";
import { say } from "../state/notices";
import { useUi } from "../state/ui";
import { useBench } from "../views/benchStore";
import { usePicked, type Picked } from "../views/pick";
import { useMoveEdits } from "./alike";

type Triple = [number, number, number];

/** The move whose words these are: its numbers can carry pins. Set gives one of its values another. */
export interface Told {
  shot: ShotReply;
  part: Part;
  move: Move;
  set: (value: string, to: unknown) => void; // to something, or by a function of what it is then
}
/** Three numbers, or how they follow from what they are by then. */
export type To = Triple | ((now: Triple) => Triple);

export const Moving = createContext<Told | null>(null);

interface NumProps {
  label: string;
  value: number;
  kind: Kind;
  unit?: string;
  turns?: boolean;
  whole?: boolean;
  min?: number;
  max?: number;
  digits?: number;
  pin?: string; // the name of the parameter, where it can carry pins
  scale?: number; // what is shown over what the parameter is
  onChange: (v: number) => void;
}

/** A number as a word of a sentence. Angles are radians in the document unless turns says otherwise. */
export function Num(p: NumProps) {
  const of = useContext(Moving);
  return p.pin && of ? <PinnedNum {...p} pin={p.pin} of={of} /> : <PlainNum {...p} />;
}

function PlainNum(p: NumProps) {
  const radians = p.kind === "angle" && !p.turns ? 2 * Math.PI : 1;
  return (
    <NumberField
      inline
      label={p.label}
      value={p.value / radians}
      kind={p.kind}
      unit={
        p.unit ??
        { length: "mm", time: "f", angle: p.turns ? (p.value === 1 ? "turn" : "turns") : "°", percent: "%" }[
          p.kind as string
        ]
      }
      digits={p.digits ?? (p.whole ? 0 : 3)}
      whole={p.whole}
      min={p.min}
      max={p.max}
      onChange={(v) => p.onChange((p.whole ? Math.round(v) : v) * radians)}
    />
  );
}

/** A number that has pins, or may get some: with pins it is what they say on the frame of the playhead. */
function PinnedNum(p: NumProps & { pin: string; of: Told }) {
  const edit = useMoveEdits();
  const frame = useFrame();
  const { move, part, shot, set } = p.of;
  const k = p.scale ?? 1;
  const track = move.pins?.find((t) => t.value === p.pin);
  const here = pinAt(track, frame);
  const now = valueAt(curveOf(useCurves(shot, part.id, !!track), move.id, p.pin), frame);
  const ref = { part: part.id, move: move.id, value: p.pin, time: frame };
  return (
    <span className="relative whitespace-nowrap">
      <PlainNum
        {...p}
        value={track && now !== undefined ? now * k : p.value}
        onChange={(v) => {
          if (track) clock.play(0);
          set(p.pin, v / k);
        }}
      />
      <button
        type="button"
        aria-label={here ? `Take out the pin of ${p.label}` : `Pin ${p.label} here`}
        aria-pressed={!!here}
        title={here ? "Take out this pin" : "Pin this number on the frame of the playhead"}
        onClick={() =>
          void edit(here ? { removePins: { pins: [{ ...ref, time: here.time }] } } : { setPin: ref })
        }
        className={`absolute -top-1.5 -right-1 size-[8px] rounded-full border focus-visible:opacity-100 ${here ? "border-heather bg-heather" : track ? "border-heather" : "border-quiet opacity-0 group-hover:opacity-70"}`}
      />
    </span>
  );
}

/** A colour as a word of a sentence, sRGB from 0 to 1. */
export function Swatch(p: { label: string; value: Triple; onChange: (c: Triple) => void }) {
  const hex = toHex(p.value);
  const [draft, setDraft] = useState<string | null>(null);
  return (
    <input
      type="color"
      aria-label={p.label}
      value={draft ?? hex}
      className="inline-block h-[18px] w-[30px] cursor-pointer rounded-sm border border-line bg-transparent p-0 align-middle"
      onChange={(e) => setDraft(e.target.value)}
      onBlur={() => {
        const c = draft === hex ? null : fromHex(draft ?? "");
        if (c) p.onChange(c);
        setDraft(null);
      }}
    />
  );
}

/** SVG path data, edited as text. */
export function Drawing(p: { label: string; value: string; onChange: (v: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  return (
    <input
      type="text"
      aria-label={p.label}
      title="The d of an SVG path, such as M0 0C10 -20 30 -20 40 0"
      spellCheck={false}
      value={text ?? p.value}
      className="mx-1 inline-block h-[22px] w-[150px] rounded-sm border border-line bg-ground px-1 align-middle font-mono text-[11px]"
      onChange={(e) => setText(e.target.value)}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur();
      }}
      onBlur={() => {
        if (text !== null && text.trim() !== p.value) p.onChange(text.trim());
        setText(null);
      }}
    />
  );
}

/** One of a few words. */
export function Word<T extends string>(p: {
  label: string;
  value: T;
  of: readonly T[] | Record<string, string>;
  onChange: (v: T) => void;
}) {
  const choices = Array.isArray(p.of)
    ? (p.of as T[]).map((v) => ({ value: v, name: v as string }))
    : Object.entries(p.of as Record<string, string>).map(([value, name]) => ({ value: value as T, name }));
  return <Pick inline label={p.label} value={p.value} choices={choices} onChange={p.onChange} />;
}

const axes: Record<string, Triple> = { upright: [0, 1, 0], sideways: [1, 0, 0], lengthways: [0, 0, 1] };
const same = (a: Triple, b: Triple) => a.every((v, i) => v === b[i]);

/** The axis that a part turns about: three by name, others as three numbers. */
export function Axis(p: {
  label?: string;
  value: Triple;
  room?: boolean; // its numbers are the room's
  of?: string; // the part whose own axis it is; it can be picked then, as the way a face looks
  onChange: (v: To) => void;
}) {
  const name = Object.keys(axes).find((k) => same(axes[k]!, p.value)) ?? "typed";
  return (
    <>
      <Pick
        inline
        label={p.label ?? "Axis"}
        value={name}
        choices={[...Object.keys(axes), "typed"].map((k) => ({
          value: k,
          name: k === "typed" ? "typed axis" : `${k} axis`,
        }))}
        onChange={(k) => p.onChange(axes[k] ?? [p.value[0], p.value[1], p.value[2] + 0.1])}
      />
      {name === "typed" && <Vector label="Axis" value={p.value} kind="number" onChange={p.onChange} />}
      {p.of && (
        <PickButton
          label={p.label ?? "Axis"}
          picks="axis"
          then={(hit) => {
            const own = placeOf(p.of!);
            if (!own) return;
            const n = (p.room ? hit.normal : hit.normal.clone().transformDirection(own.invert())).toArray();
            p.onChange(n.map((v) => Math.round(v * 1e6) / 1e6) as Triple);
          }}
        />
      )}
    </>
  );
}

/** Three numbers in brackets. */
export function Vector(p: {
  label: string;
  value: Triple;
  kind: Kind;
  pin?: string;
  onChange: (v: To) => void;
}) {
  const of = useContext(Moving);
  return (
    <>
      {" ("}
      {[0, 1, 2].map((k) => (
        <span key={k}>
          {k > 0 && ", "}
          <Num
            label={`${p.label} ${"xyz"[k]}`}
            pin={p.pin && `${p.pin} ${"xyz"[k]}`}
            value={p.value[k]!}
            kind={p.kind}
            onChange={(v) =>
              p.pin && of
                ? of.set(`${p.pin} ${"xyz"[k]}`, v)
                : p.onChange((now) => now.map((w, i) => (i === k ? v : w)) as Triple)
            }
          />
        </span>
      ))}
      {")"}
    </>
  );
}

const ways: Record<string, Triple> = {
  right: [1, 0, 0],
  left: [-1, 0, 0],
  forwards: [0, 0, 1],
  backwards: [0, 0, -1],
};

/** A way along the floor. */
export function Way(p: { label: string; value: Triple; onChange: (v: To) => void }) {
  const name = Object.keys(ways).find((k) => same(ways[k]!, p.value)) ?? "typed";
  return (
    <>
      <Pick
        inline
        label={p.label}
        value={name}
        choices={[...Object.keys(ways), "typed"].map((k) => ({
          value: k,
          name: k === "typed" ? "along" : k,
        }))}
        onChange={(k) => p.onChange(ways[k] ?? [1, 0, 0.5])}
      />
      {name === "typed" && <Vector label={p.label} value={p.value} kind="number" onChange={p.onChange} />}
    </>
  );
}

/** Where a part is on the frame of the playhead. */
export function placeOf(id: string) {
  const shot = client.getQueryData<ShotReply>(keys.shot(useUi.getState().shot ?? ""));
  const i = shot?.document.parts.findIndex((o) => o.id === id) ?? -1;
  return i < 0 ? undefined : useBench.getState().stage?.worldOf(i, clock.frame);
}

/** Picks something with the next click in the bench or the picture. */
export function PickButton(p: {
  label: string;
  picks: "part" | "axis" | "place";
  then: (hit: Picked) => void;
}) {
  const word = useId();
  const asking = useUi((s) => s.picking === p.picks && s.asking === word);
  usePicked(p.picks, (hit) => {
    if (!asking) return;
    useUi.setState({ picking: null });
    p.then(hit);
  });
  return (
    <button
      type="button"
      aria-label={`Pick: ${p.label}`}
      title="Pick it in the bench or in the picture"
      className={asking ? "text-verdigris" : "text-quiet hover:text-ink"}
      onClick={() => useUi.setState({ picking: p.picks, asking: word })}
    >
      <Crosshair size={12} className="inline" />
    </button>
  );
}

/** Another part of the shot. */
export function Other(p: {
  shot: ShotReply;
  not: Part;
  label: string;
  value: string;
  none?: string; // a word for no part
  onChange: (v: string) => void;
}) {
  const parts = p.shot.document.parts.filter((o) => o.id !== p.not.id && !o.light && o.kind !== "floor");
  const now = parts.find((o) => o.id === p.value);
  return (
    <>
      <Pick
        inline
        label={p.label}
        value={p.value}
        choices={[
          ...(p.none ? [{ value: "", name: p.none }] : []),
          ...(now ? [{ value: now.id, name: now.name }] : []),
          ...parts
            .filter((o) => o !== now)
            .slice(0, 150)
            .map((o) => ({ value: o.id, name: o.name })),
        ]}
        onChange={p.onChange}
      />{" "}
      <PickButton
        label={p.label}
        picks="part"
        then={(hit) =>
          hit.part === p.not.id ? say("A part cannot be meant by its own move.") : p.onChange(hit.part)
        }
      />
    </>
  );
}
