import type { ValueWords } from "../api/types.gen";
import { Pick as Choose } from "../fields/controls";
import { clock } from "../state/clock";
import { benchView } from "./AddPart";
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
            onChange={(to) =>
              t.set(v.name, (now: Triple[]) =>
                now.map((o, k) => (k !== i ? o : typeof to === "function" ? to(o) : to)),
              )
            }
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

/** The stops of a flight: each with its time and its rest, from where one is or from an angle. */
export function Stops({ v, stops, t }: { v: ValueWords; stops: Stop[]; t: Told }) {
  const put = (list: Stop[]) => t.set(v.name, list);
  const set = (i: number, c: Partial<Stop>) =>
    t.set(v.name, (now: Stop[]) => now.map((o, k) => (k === i ? { ...o, ...c } : o)));
  const angles = t.shot.document.angles ?? [];
  const from = (id: string): Pick<Stop, "position" | "rotation"> | null => {
    const a = angles.find((x) => x.id === id);
    if (a) return { position: a.position as Triple, rotation: a.rotation as Stop["rotation"] };
    const view = benchView();
    return view ? { position: view.position as Triple, rotation: view.rotation } : null;
  };
  const places = [
    { value: "bench", name: "where the bench looks from" },
    ...angles.map((a) => ({ value: a.id, name: a.name })),
  ];
  const add = (id: string) => {
    const place = from(id);
    if (!place) return;
    // On the frame of the playhead, or as soon after as no other is in the way.
    let at = clock.frame;
    for (const s of [...stops].sort((a, b) => a.at - b.at))
      if (at >= s.at && at <= s.at + s.rest) at = s.at + s.rest + 1;
    put([...stops, { at, rest: 0, ...place }].sort((a, b) => a.at - b.at));
  };
  return (
    <>
      {stops.length} {stops.length === 1 ? "stop" : "stops"}:{" "}
      {stops.map((s, i) => (
        <span key={i}>
          {i > 0 && "; "}
          {i + 1}{" "}
          <Choose
            inline
            label={`Place of stop ${i + 1}`}
            value=""
            choices={[{ value: "", name: "at" }, ...places.map((p) => ({ ...p, name: `from ${p.name}` }))]}
            onChange={(id) => {
              const place = id === "" ? null : from(id);
              if (place) set(i, place);
            }}
          />{" "}
          <Num label={`${v.label} ${i + 1} at`} value={s.at} kind="time" onChange={(at) => set(i, { at })} />,
          resting{" "}
          <Num
            label={`Rest ${i + 1}`}
            value={s.rest}
            kind="time"
            min={0}
            onChange={(rest) => set(i, { rest })}
          />
          {stops.length > 1 && (
            <button
              type="button"
              aria-label={`Take out stop ${i + 1}`}
              title="Take it out"
              className="px-0.5 text-quiet hover:text-ink"
              onClick={() => put(stops.filter((_, k) => k !== i))}
            >
              ×
            </button>
          )}
        </span>
      ))}
      ,{" "}
      <Choose
        inline
        label="One more stop"
        value=""
        choices={[{ value: "", name: "one more" }, ...places.map((p) => ({ ...p, name: `from ${p.name}` }))]}
        onChange={(id) => id !== "" && add(id)}
      />
    </>
  );
}
