import type { ValueWords } from "../api/types.gen";
import { Num, PickButton, placeOf, Vector, type Told } from "./words";

type Triple = [number, number, number];

export interface Stop {
  at: number; // frames
  rest: number; // frames that it rests there
  position: Triple; // in the room, metres
  rotation: [number, number, number, number];
}

/** The points of a curve, from the part's place. */
export function Points({ v, points, t }: { v: ValueWords; points: Triple[]; t: Told }) {
  const set = (list: Triple[]) => t.set(v.name, list);
  return (
    <>
      {points.map((p, i) => (
        <span key={i}>
          {i > 0 && ","}
          <Vector
            label={`${v.label} ${i + 1}`}
            value={p}
            kind="length"
            onChange={(q) => set(points.map((o, k) => (k === i ? q : o)))}
          />
        </span>
      ))}{" "}
      <button type="button" className="stitched" onClick={() => set([...points, further(points)])}>
        one more
      </button>{" "}
      <PickButton
        label={`One more ${v.label.toLowerCase()}`}
        picks="place"
        then={(hit) => {
          const up = t.part.parent ? placeOf(t.part.parent) : undefined;
          const q = up ? hit.nearest.clone().applyMatrix4(up.clone().invert()) : hit.nearest;
          const metre = up ? Math.cbrt(Math.abs(up.determinant())) : 1; // of the room in one of the parent's
          const from = t.part.rest.position.map((o, k) => o + t.part.pivot[k]!);
          set([...points, q.toArray().map((o, k) => (o - from[k]!) * metre) as Triple]);
        }}
      />
      {points.length > 3 && (
        <>
          {" "}
          <button type="button" className="stitched" onClick={() => set(points.slice(0, -1))}>
            one less
          </button>
        </>
      )}
    </>
  );
}

/** As far beyond the last point as that is beyond the one before. */
function further(points: Triple[]): Triple {
  const [a, b] = [points.at(-2)!, points.at(-1)!];
  return b.map((v, i) => 2 * v - a[i]!) as Triple;
}

/** The stops of a flight. */
export function Stops({ v, stops, t }: { v: ValueWords; stops: Stop[]; t: Told }) {
  const set = (i: number, c: Partial<Stop>) =>
    t.set(
      v.name,
      stops.map((o, k) => (k === i ? { ...o, ...c } : o)),
    );
  return (
    <>
      {stops.length} {stops.length === 1 ? "stop" : "stops"}:{" "}
      {stops.map((s, i) => (
        <span key={i}>
          {i > 0 && "; "}
          {i + 1} at{" "}
          <Num label={`${v.label} ${i + 1} at`} value={s.at} kind="time" onChange={(at) => set(i, { at })} />,
          resting{" "}
          <Num
            label={`Rest ${i + 1}`}
            value={s.rest}
            kind="time"
            min={0}
            onChange={(rest) => set(i, { rest })}
          />
        </span>
      ))}
    </>
  );
}
