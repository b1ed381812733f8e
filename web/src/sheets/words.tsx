import { Crosshair } from "lucide-react";
import { createContext, useContext, useId, useState } from "react";
import { pinAt, pinnedIn, sample } from "../score/tracks";
import { clock, useFrame } from "../state/clock";
import { say } from "../state/notices";
import { useUi } from "../state/ui";
import { client, keys } from "../api/queries";
import { bench3d } from "../views/bench3d";
import { usePicked, type Picked } from "../views/pick";
import type { Move, Pace, Part, ShotReply, Track } from "../api/types.gen";
import { fromHex, Pick, toHex } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import type { Kind } from "../fields/quantity";
import { PacePad } from "./PacePad";

export type Change = (m: Partial<Move>) => void;
type Triple = [number, number, number];

/** The move whose words these are: its numbers can carry pins. */
export const Moving = createContext<{ move: Move; set: Change } | null>(null);

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
function PinnedNum(p: NumProps & { pin: string; of: { move: Move; set: Change } }) {
  const frame = useFrame();
  const recording = useUi((s) => s.recording);
  const { move, set } = p.of;
  const k = p.scale ?? 1;
  const list = move.pins ?? [];
  const track = list.find((t) => t.value === p.pin);
  const here = pinAt(track, frame);
  const put = (pins: Track[]) => set({ pins });
  const pinTo = (v: number) => {
    clock.play(0);
    const first = track || frame === 0 ? list : pinnedIn(list, p.pin, 0, { value: p.value / k });
    put(pinnedIn(first, p.pin, frame, { value: v / k }));
  };
  return (
    <span className="relative whitespace-nowrap">
      <PlainNum
        {...p}
        value={track ? sample(track, frame) * k : p.value}
        onChange={(v) => (track || recording ? pinTo(v) : p.onChange(v))}
      />
      <button
        type="button"
        aria-label={here ? `Take out the pin of ${p.label}` : `Pin ${p.label} here`}
        aria-pressed={!!here}
        title={here ? "Take out this pin" : "Pin this number on the frame of the playhead"}
        onClick={() =>
          here
            ? put(
                list
                  .map((t) => (t === track ? { ...t, pins: t.pins.filter((q) => q !== here) } : t))
                  .filter((t) => t.pins.length > 0),
              )
            : put(pinnedIn(list, p.pin, frame, { value: (track ? sample(track, frame) * k : p.value) / k }))
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
export function Drawing(p: { value: string; onChange: (v: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  return (
    <input
      type="text"
      aria-label="Path data"
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
  of?: string; // the part whose own axis it is; it can be picked then, as the way a face looks
  onChange: (v: Triple) => void;
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
            const n = hit.normal.clone().transformDirection(own.invert()).toArray();
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
  onChange: (v: Triple) => void;
}) {
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
            onChange={(v) => p.onChange(p.value.map((w, i) => (i === k ? v : w)) as Triple)}
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
export function Way(p: { value: Triple; onChange: (v: Triple) => void }) {
  const name = Object.keys(ways).find((k) => same(ways[k]!, p.value)) ?? "typed";
  return (
    <>
      <Pick
        inline
        label="Way"
        value={name}
        choices={[...Object.keys(ways), "typed"].map((k) => ({
          value: k,
          name: k === "typed" ? "along" : k,
        }))}
        onChange={(k) => p.onChange(ways[k] ?? [1, 0, 0.5])}
      />
      {name === "typed" && <Vector label="Way" value={p.value} kind="number" onChange={p.onChange} />}
    </>
  );
}

/** Where a part is on the frame of the playhead. */
export function placeOf(id: string) {
  const shot = client.getQueryData<ShotReply>(keys.shot(useUi.getState().shot ?? ""));
  const i = shot?.document.parts.findIndex((o) => o.id === id) ?? -1;
  return i < 0 ? undefined : bench3d.stage?.worldOf(i, clock.frame);
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

/** When a move acts, and what follows. */
export function SpanWords({ shot, move, set }: { shot: ShotReply; move: Move; set: Change }) {
  const { frames, ending } = shot.document;
  const s = move.span;
  const laps = move.laps || 1;
  const whole = ending === "loop" ? "over the whole loop" : "over the whole shot";
  return (
    <>
      <Pick
        inline
        label="Span"
        value={s === null ? "whole" : "part"}
        choices={[
          { value: "whole", name: whole },
          { value: "part", name: "from a frame to a frame" },
        ]}
        onChange={(v) =>
          set({ span: v === "whole" ? null : { from: 0, to: Math.max(1, Math.round(frames / 2)) } })
        }
      />
      {s && (
        <>
          :{" "}
          <Num
            label="From"
            value={s.from}
            kind="time"
            digits={2}
            onChange={(from) => set({ span: { ...s, from } })}
          />{" "}
          to{" "}
          <Num
            label="To"
            value={s.to}
            kind="time"
            digits={2}
            onChange={(to) => set({ span: { ...s, to } })}
          />
        </>
      )}
      {laps > 1 || move.after === "there and back" ? (
        <>
          {" "}
          in{" "}
          <Num
            label="Laps"
            value={laps}
            kind="number"
            whole
            min={1}
            max={10000}
            unit={laps === 1 ? "lap" : "laps"}
            onChange={(v) => set({ laps: v === 1 ? 0 : v })}
          />
        </>
      ) : null}
      , then it{" "}
      <Word
        label="Afterwards"
        value={move.after || "stays"}
        of={{
          stays: "stays",
          returns: "returns",
          repeats: "repeats",
          "carries on": "carries on",
          "there and back": "goes there and back",
        }}
        onChange={(after) => set({ after, laps: after === "there and back" && laps === 1 ? 2 : move.laps })}
      />
    </>
  );
}

/** Paces by name; the first values of each. */
const paces: Record<string, { name: string; pace: Pace }> = {
  constant: { name: "constant speed", pace: { kind: "constant" } },
  bezier: { name: "an eased pace", pace: { kind: "bezier", bezier: [0.42, 0, 0.58, 1] } },
  sine: { name: "a sine", pace: { kind: "sine", way: "both" } },
  power: { name: "a power", pace: { kind: "power", way: "both", power: 3 } },
  exponential: { name: "an exponential pace", pace: { kind: "exponential", way: "both" } },
  circular: { name: "a circular pace", pace: { kind: "circular", way: "both" } },
  back: { name: "a pace that overshoots", pace: { kind: "back", way: "out" } },
  elastic: { name: "an elastic pace", pace: { kind: "elastic", way: "out" } },
  bounce: { name: "bounces", pace: { kind: "bounce", way: "out" } },
  spring: {
    name: "a spring's pace",
    pace: { kind: "spring", spring: { mass: 1, stiffness: 120, damping: 8 } },
  },
  drawn: {
    name: "a drawn pace",
    pace: {
      kind: "drawn",
      curve: [
        { time: 0, value: 0, next: "smooth" },
        { time: 0.5, value: 0.7, next: "smooth" },
        { time: 1, value: 1 },
      ],
    },
  },
  steps: { name: "steps", pace: { kind: "steps", steps: 8, jump: "jump-end" } },
};

const gentle = { in: "starting gently", out: "ending gently", both: "gentle at both ends" };

export function PaceWords({ move, set }: { move: Move; set: Change }) {
  const p = move.pace;
  const kind = p.kind || "constant";
  const change = (c: Partial<Pace>) => set({ pace: { ...p, ...c } });
  return (
    <>
      <Pick
        inline
        label="Pace"
        value={kind}
        choices={Object.entries(paces).map(([value, x]) => ({ value, name: x.name }))}
        onChange={(k) => set({ pace: paces[k]!.pace })}
      />
      {p.way !== undefined && (
        <>
          ,{" "}
          <Word
            label="Gentle"
            value={p.way as keyof typeof gentle}
            of={gentle}
            onChange={(way) => change({ way })}
          />
        </>
      )}
      {kind === "power" && (
        <>
          , to the{" "}
          <Num
            label="Power"
            value={p.power ?? 3}
            kind="number"
            min={1}
            max={10}
            unit="power"
            onChange={(power) => change({ power })}
          />
        </>
      )}
      {kind === "bezier" && p.bezier && (
        <>
          {" ("}
          {p.bezier.map((v, i) => (
            <span key={i}>
              {i > 0 && ", "}
              <Num
                label={
                  [
                    "First handle, time",
                    "First handle, value",
                    "Second handle, time",
                    "Second handle, value",
                  ][i]!
                }
                value={v}
                kind="number"
                min={i % 2 ? undefined : 0}
                max={i % 2 ? undefined : 1}
                onChange={(w) =>
                  change({
                    bezier: p.bezier!.map((o, k) => (k === i ? w : o)) as [number, number, number, number],
                  })
                }
              />
            </span>
          ))}
          {")"}
        </>
      )}
      {(kind === "bezier" || kind === "drawn") && <PacePad pace={p} onChange={(pace) => set({ pace })} />}
      {kind === "spring" && p.spring && (
        <>
          {" "}
          of stiffness{" "}
          <Num
            label="Stiffness"
            value={p.spring.stiffness}
            kind="number"
            min={0.001}
            onChange={(stiffness) => change({ spring: { ...p.spring!, stiffness } })}
          />{" "}
          and damping{" "}
          <Num
            label="Damping"
            value={p.spring.damping}
            kind="number"
            min={0.001}
            onChange={(damping) => change({ spring: { ...p.spring!, damping } })}
          />
        </>
      )}
      {kind === "steps" && (
        <>
          :{" "}
          <Num
            label="Steps"
            value={p.steps ?? 8}
            kind="number"
            whole
            min={1}
            max={10000}
            unit="of them"
            onChange={(steps) => change({ steps })}
          />
          ,{" "}
          <Word
            label="Jump"
            value={p.jump ?? "jump-end"}
            of={{
              "jump-end": "each at its end",
              "jump-start": "each at its start",
              "jump-none": "none at the ends",
              "jump-both": "at both ends",
            }}
            onChange={(jump) => change({ jump })}
          />
        </>
      )}
    </>
  );
}
