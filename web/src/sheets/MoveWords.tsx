import { Fragment } from "react";
import { useKind } from "../api/kinds";
import type { ApartStep, Description, Hinged, ValueWords, Word as Piece } from "../api/types.gen";
import { Pick } from "../fields/controls";
import type { Kind } from "../fields/quantity";
import { fromLinear, toLinear } from "./srgb";
import { Begin, PaceWords, Span, Timing } from "./timing";
import { Axis, Drawing, Moving, Num, Other, Swatch, Vector, Way, Word, type Told } from "./words";
import { CageWords } from "./CageWords";
import type { CageNow } from "../views/cage";
import { PanelsList } from "./PanelsList";
import { PlanList } from "./PlanList";
import { Points, Stops, type Stop } from "./places";

/** A move as a sentence whose words are its controls. The core says which words, and what they may be. */
export function MoveWords(t: Told) {
  const kind = useKind(t.move.kind);
  const values = t.shot.moves.find((m) => m.move === t.move.id)?.values;
  if (!kind || !values) return null;
  return (
    <Moving value={t}>
      <Sentence of={kind.sentence} kind={kind} values={values} t={t} />
    </Moving>
  );
}

interface Said {
  kind: Description;
  values: Record<string, unknown>;
  t: Told;
}

function Sentence({ of, ...s }: Said & { of: Piece[] }) {
  return of.map((w, i) => (
    <Fragment key={i}>
      <OneWord w={w} {...s} />
    </Fragment>
  ));
}

function OneWord({ w, ...s }: Said & { w: Piece }) {
  switch (w.is) {
    case "text":
      return w.text;
    case "part":
      return <strong className="font-semibold">{s.t.part.name}</strong>;
    case "timing":
      return <Timing {...s.t} />;
    case "span":
      return <Span {...s.t} />;
    case "begin":
      return <Begin {...s.t} />;
    case "pace":
      return <PaceWords {...s.t} />;
    case "some":
      return !w.when || w.when.is.includes(s.values[w.when.name]) ? (
        <Sentence of={w.words ?? []} {...s} />
      ) : null;
  }
  const value = s.kind.values.find((v) => v.name === w.name);
  return value ? <Value v={value} now={s.values[value.name]} values={s.values} t={s.t} /> : null;
}

/** How numbers of a unit are shown: their field, and what one of it is worth there. */
const units: Record<string, { kind: Kind; scale?: number; turns?: boolean }> = {
  length: { kind: "length" },
  angle: { kind: "angle" },
  turns: { kind: "angle", turns: true },
  time: { kind: "time" },
  share: { kind: "percent", scale: 100 },
};

/** Bounds so far away are for files; a field need not mention them. */
const far = 1e9;

function Value({
  v,
  now,
  values,
  t,
}: {
  v: ValueWords;
  now: unknown;
  values: Record<string, unknown>;
  t: Told;
}) {
  const set = (to: unknown) => t.set(v.name, to);
  const { kind, scale, turns } = units[v.unit ?? ""] ?? { kind: "number" as Kind };
  const pin = v.pins ? v.name : undefined;
  const k = scale ?? 1;
  switch (v.as) {
    case "vector":
      return <Vector label={v.label} pin={pin} value={now as Triple} kind={kind} onChange={set} />;
    case "axis":
      return (
        <Axis
          label={v.label}
          of={t.part.id}
          room={values.frame === "room"}
          value={now as Triple}
          onChange={set}
        />
      );
    case "way":
      return <Way label={v.label} value={now as Triple} onChange={set} />;
    case "choice":
      return (
        <Word
          label={v.label}
          value={now as string}
          of={Object.fromEntries(v.options!.map((o) => [o.value, o.text]))}
          onChange={set}
        />
      );
    case "part":
      return (
        <Other
          shot={t.shot}
          not={t.part}
          label={v.label}
          value={now as string}
          none={v.none}
          onChange={set}
        />
      );
    case "member":
      return (
        <Pick
          inline
          label={v.label}
          value={(now as string) ?? ""}
          choices={[
            { value: "", name: v.none ?? "none" },
            ...t.shot.document.parts
              .filter((p) => p.parent === t.part.id)
              .map((p) => ({ value: p.id, name: p.name })),
          ]}
          onChange={set}
        />
      );
    case "panels":
      return <PanelsList v={v} panels={(now as Hinged[] | null) ?? []} t={t} />;
    case "cage":
      return <CageWords v={v} now={now as CageNow} t={t} />;
    case "clip":
      return (
        <Pick
          inline
          label={v.label}
          value={String(now)}
          choices={(t.part.clips ?? []).map((c, k) => ({
            value: String(k),
            name: c.name,
            note: `${c.seconds.toFixed(2)} s`,
          }))}
          onChange={(k) => set(Number(k))}
        />
      );
    case "colour":
      return <Swatch label={v.label} value={fromLinear(now as Triple)} onChange={(c) => set(toLinear(c))} />;
    case "drawing":
      return <Drawing label={v.label} value={now as string} onChange={set} />;
    case "points":
      return <Points v={v} points={(now as Triple[] | null) ?? []} t={t} />;
    case "stops":
      return <Stops v={v} stops={now as Stop[]} t={t} />;
    case "plan":
      return <PlanList v={v} steps={(now as ApartStep[] | null) ?? []} t={t} />;
    case "hidden":
      return null;
  }
  const n = now as number;
  return (
    <Num
      label={v.label}
      pin={pin}
      scale={scale}
      value={n * k}
      kind={kind}
      turns={turns}
      whole={v.whole}
      unit={v.many ? (n === 1 ? (v.ones ?? v.many) : v.many) : undefined}
      min={v.in && v.in.least > -far ? v.in.least * k : undefined}
      max={v.in && v.in.most < far ? v.in.most * k : undefined}
      onChange={(x) => set(x / k)}
    />
  );
}

type Triple = [number, number, number];
