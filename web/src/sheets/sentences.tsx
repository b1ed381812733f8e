import type { ReactNode } from "react";
import type { Part, Turntable } from "../api/types.gen";
import { Pick } from "../fields/controls";
import { changes } from "./changes";
import { directions, Name, Timing, type Told } from "./told";
import { Axis, Drawing, Num, Other, PaceWords, PickButton, placeOf, Vector, Way, Word } from "./words";

/** Each move as a sentence whose words are its controls. */
export const sentences: Record<string, (t: Told) => ReactNode> = {
  ...changes,

  turntable: (t) => (
    <TurntableWords
      part={t.part}
      t={t.move.turntable!}
      set={(c) => t.set({ turntable: { ...t.move.turntable!, ...c } })}
    />
  ),

  turn: (t) => {
    const m = t.move.turn!;
    const set = (c: Partial<typeof m>) => t.set({ turn: { ...m, ...c } });
    return (
      <>
        Turn <Name part={t.part} /> by{" "}
        <Num
          label="Turns"
          pin="turns"
          value={m.turns}
          kind="angle"
          turns
          onChange={(turns) => set({ turns })}
        />{" "}
        <Word
          label="Direction"
          value={m.direction}
          of={directions}
          onChange={(direction) => set({ direction })}
        />{" "}
        about its <Axis of={t.part.id} value={m.axis} onChange={(axis) => set({ axis })} />
        {", "}
        <Pick
          inline
          label="Stops"
          value={m.stops ? "stops" : "go"}
          choices={[
            { value: "go", name: "in one go" },
            { value: "stops", name: "with stops" },
          ]}
          onChange={(v) => set(v === "go" ? { stops: 0, rest: 0 } : { stops: 4, rest: 0.5 })}
        />
        {m.stops ? (
          <>
            {": "}
            <Num
              label="Number of stops"
              value={m.stops}
              kind="number"
              whole
              min={1}
              max={10000}
              unit={m.stops === 1 ? "stop" : "stops"}
              onChange={(stops) => set({ stops })}
            />
            , resting for{" "}
            <Num
              label="Rest"
              pin="rest"
              scale={100}
              value={(m.rest ?? 0) * 100}
              kind="percent"
              min={0}
              max={99}
              onChange={(v) => set({ rest: v / 100 })}
            />{" "}
            of each
          </>
        ) : null}
        <Timing {...t} />
      </>
    );
  },

  slide: (t) => {
    const m = t.move.slide!;
    return (
      <>
        Slide <Name part={t.part} /> by
        <Vector
          label="By"
          pin="by"
          value={m.by}
          kind="length"
          onChange={(by) => t.set({ slide: { ...m, by } })}
        />
        <Timing {...t} />
      </>
    );
  },

  float: (t) => {
    const m = t.move.float!;
    const set = (c: Partial<typeof m>) => t.set({ float: { ...m, ...c } });
    return (
      <>
        Float <Name part={t.part} />{" "}
        <Num
          label="Height"
          pin="height"
          value={m.height}
          kind="length"
          min={0}
          digits={2}
          onChange={(height) => set({ height })}
        />{" "}
        up and down every{" "}
        <Num
          label="Period"
          pin="period"
          value={m.period}
          kind="time"
          min={0.001}
          onChange={(period) => set({ period })}
        />
        , tilting{" "}
        <Num
          label="Tilt"
          pin="tilt"
          value={m.tilt}
          kind="angle"
          digits={2}
          onChange={(tilt) => set({ tilt })}
        />
        .
      </>
    );
  },

  swing: (t) => {
    const m = t.move.swing!;
    const set = (c: Partial<typeof m>) => t.set({ swing: { ...m, ...c } });
    const long = m.shape === "pendulum" && (m.length ?? 0) > 0;
    return (
      <>
        Swing <Name part={t.part} /> by{" "}
        <Num
          label="Amplitude"
          pin="amplitude"
          value={m.amplitude}
          kind="angle"
          onChange={(amplitude) => set({ amplitude })}
        />{" "}
        either way about its <Axis of={t.part.id} value={m.axis} onChange={(axis) => set({ axis })} />, as{" "}
        <Word
          label="Shape"
          value={m.shape}
          of={{ sine: "a sine", pendulum: "a true pendulum", weighted: "something heavy" }}
          onChange={(shape) => set({ shape })}
        />
        {", "}
        {m.shape === "pendulum" && (
          <>
            <Word
              label="Timed by"
              value={long ? "length" : "period"}
              of={{ period: "timed by its period", length: "timed by its length" }}
              onChange={(v) => set({ length: v === "length" ? 0.25 : 0 })}
            />
            :{" "}
          </>
        )}
        {long ? (
          <Num
            label="Length"
            value={m.length!}
            kind="length"
            min={1e-6}
            onChange={(length) => set({ length })}
          />
        ) : (
          <>
            every{" "}
            <Num
              label="Period"
              pin="period"
              value={m.period}
              kind="time"
              min={0.001}
              onChange={(period) => set({ period })}
            />
          </>
        )}
        , ahead by{" "}
        <Num
          label="Phase"
          pin="phase"
          scale={100}
          value={(m.phase ?? 0) * 100}
          kind="percent"
          onChange={(v) => set({ phase: v / 100 })}
        />{" "}
        of a swing.
      </>
    );
  },

  roll: (t) => {
    const m = t.move.roll!;
    const set = (c: Partial<typeof m>) => t.set({ roll: { ...m, ...c } });
    const ground = m.contact === "ground";
    return (
      <>
        Roll <Name part={t.part} />, of radius{" "}
        <Num
          label="Radius of what rolls"
          value={m.radius}
          kind="length"
          min={1e-6}
          onChange={(radius) => set({ radius })}
        />
        , <Way value={m.along} onChange={(along) => set({ along })} />{" "}
        <Word
          label="Contact"
          value={m.contact}
          of={{ ground: "on the ground", on: "round the outside of another", in: "inside another" }}
          onChange={(contact) => set({ contact, other: m.other || m.radius * 3 })}
        />
        {!ground && (
          <>
            {" of radius "}
            <Num
              label="Radius of the other"
              value={m.other ?? 0}
              kind="length"
              min={1e-6}
              onChange={(other) => set({ other })}
            />
          </>
        )}{" "}
        by{" "}
        <Num
          label="Turns"
          pin="turns"
          value={m.turns}
          kind="angle"
          turns
          unit={ground ? undefined : "laps"}
          onChange={(turns) => set({ turns })}
        />
        {ground && (
          <>
            {", which is "}
            <Num
              label="Distance"
              value={m.turns * 2 * Math.PI * m.radius}
              kind="length"
              onChange={(d) => set({ turns: d / (2 * Math.PI * m.radius) })}
            />
          </>
        )}
        <Timing {...t} />
      </>
    );
  },

  topple: (t) => {
    const m = t.move.topple!;
    const set = (c: Partial<typeof m>) => t.set({ topple: { ...m, ...c } });
    return (
      <>
        Topple <Name part={t.part} /> <Way value={m.along} onChange={(along) => set({ along })} /> over{" "}
        <Num
          label="Times"
          value={m.steps}
          kind="number"
          whole
          min={1}
          max={1000}
          unit={m.steps === 1 ? "edge" : "edges"}
          onChange={(steps) => set({ steps })}
        />
        ; it has{" "}
        <Num
          label="Sides"
          value={m.sides}
          kind="number"
          whole
          min={3}
          max={100}
          unit="sides"
          onChange={(sides) => set({ sides })}
        />
        , the lower one{" "}
        <Num
          label="Width along the way"
          value={m.width}
          kind="length"
          min={1e-6}
          onChange={(width) => set({ width })}
        />{" "}
        wide
        {m.sides === 4 && (
          <>
            {" and "}
            <Num
              label="Height of the box"
              value={m.high}
              kind="length"
              min={1e-6}
              onChange={(high) => set({ high })}
            />{" "}
            high
          </>
        )}
        <Timing {...t} />
      </>
    );
  },

  travel: (t) => {
    const m = t.move.travel!;
    const set = (c: Partial<typeof m>) => t.set({ travel: { ...m, ...c } });
    const points = m.path === "points" || m.path === "closed";
    return (
      <>
        Let <Name part={t.part} /> travel along{" "}
        <Word
          label="Path"
          value={m.path}
          of={{
            circle: "a circle",
            ellipse: "an ellipse",
            rounded: "a rounded rectangle",
            points: "a curve through points",
            closed: "a closed curve through points",
            drawn: "a drawn line",
          }}
          onChange={(path) =>
            set({
              path,
              depth: m.depth || m.width,
              corner: m.corner || (m.width ?? 0.1) / 5,
              width: m.width || 0.2,
              points: m.points?.length ? m.points : firstPoints(m.width ?? 0.2),
              drawing: m.drawing || "M0 0C10 -20 30 -20 40 0S70 20 80 0",
            })
          }
        />
        {points ? (
          <>
            {m.points!.map((p, i) => (
              <span key={i}>
                {i > 0 && ","}
                <Vector
                  label={`Point ${i + 1}`}
                  value={p}
                  kind="length"
                  onChange={(q) => set({ points: m.points!.map((o, k) => (k === i ? q : o)) })}
                />
              </span>
            ))}{" "}
            <button
              type="button"
              className="stitched"
              onClick={() => set({ points: [...m.points!, further(m.points!)] })}
            >
              one more
            </button>{" "}
            <PickButton
              label="One more point"
              picks="place"
              then={(hit) => {
                const up = t.part.parent ? placeOf(t.part.parent) : undefined;
                const q = up ? hit.nearest.clone().applyMatrix4(up.invert()) : hit.nearest;
                const from = t.part.rest.position.map((v, k) => v + t.part.pivot[k]!);
                set({
                  points: [...m.points!, q.toArray().map((v, k) => v - from[k]!) as [number, number, number]],
                });
              }}
            />
            {m.points!.length > 3 && (
              <>
                {" "}
                <button
                  type="button"
                  className="stitched"
                  onClick={() => set({ points: m.points!.slice(0, -1) })}
                >
                  one less
                </button>
              </>
            )}
          </>
        ) : (
          <>
            {" "}
            <Num
              label="Width"
              value={m.width ?? 0}
              kind="length"
              min={1e-6}
              onChange={(width) => set({ width })}
            />{" "}
            wide
            {m.path === "drawn" && (
              <Drawing value={m.drawing ?? ""} onChange={(drawing) => set({ drawing })} />
            )}
            {(m.path === "ellipse" || m.path === "rounded") && (
              <>
                {" and "}
                <Num
                  label="Depth"
                  value={m.depth ?? 0}
                  kind="length"
                  min={1e-6}
                  onChange={(depth) => set({ depth })}
                />{" "}
                deep
              </>
            )}
            {m.path === "rounded" && (
              <>
                {", with corners of "}
                <Num
                  label="Corner"
                  value={m.corner ?? 0}
                  kind="length"
                  min={0}
                  onChange={(corner) => set({ corner })}
                />
              </>
            )}
          </>
        )}
        , from{" "}
        <Num
          label="From share"
          pin="from"
          scale={100}
          value={m.from * 100}
          kind="percent"
          onChange={(v) => set({ from: v / 100 })}
        />{" "}
        to{" "}
        <Num
          label="To share"
          pin="to"
          scale={100}
          value={m.to * 100}
          kind="percent"
          onChange={(v) => set({ to: v / 100 })}
        />
        ,{" "}
        <Word
          label="Facing"
          value={m.lay ? "along" : "rest"}
          of={{ along: "facing along it", rest: "facing as it does" }}
          onChange={(v) => set({ lay: v === "along" })}
        />
        {m.lay && (
          <>
            {", leaning "}
            <Num
              label="Bank"
              pin="bank"
              value={m.bank ?? 0}
              kind="angle"
              onChange={(bank) => set({ bank })}
            />
          </>
        )}
        <Timing {...t} />
      </>
    );
  },

  gear: (t) => {
    const m = t.move.gear!;
    const set = (c: Partial<typeof m>) => t.set({ gear: { ...m, ...c } });
    return (
      <>
        <Name part={t.part} /> is driven by{" "}
        <Other
          shot={t.shot}
          not={t.part}
          label="Driver"
          value={m.driver}
          onChange={(driver) => set({ driver })}
        />{" "}
        in the ratio{" "}
        <Num
          label="Driver's teeth"
          value={m.num}
          kind="number"
          whole
          min={1}
          max={1000000}
          onChange={(num) => set({ num })}
        />{" "}
        to{" "}
        <Num
          label="Own teeth"
          value={m.den}
          kind="number"
          whole
          min={1}
          max={1000000}
          onChange={(den) => set({ den })}
        />
        ,{" "}
        <Word
          label="Mesh"
          value={m.mesh}
          of={{
            outside: "teeth outside, so that it reverses",
            inside: "teeth inside the other",
            belt: "by a belt",
          }}
          onChange={(mesh) => set({ mesh })}
        />
        , about its <Axis of={t.part.id} value={m.axis} onChange={(axis) => set({ axis })} />, ahead by{" "}
        <Num
          label="Phase"
          pin="phase"
          value={m.phase ?? 0}
          kind="angle"
          onChange={(phase) => set({ phase })}
        />
        .
      </>
    );
  },

  follow: (t) => {
    const m = t.move.follow!;
    const set = (c: Partial<typeof m>) => t.set({ follow: { ...m, ...c } });
    const what = m.rotation ? (m.position ? "both" : "rotation") : "position";
    return (
      <>
        <Name part={t.part} /> follows{" "}
        <Other shot={t.shot} not={t.part} label="Leader" value={m.of} onChange={(of) => set({ of })} /> in{" "}
        <Word
          label="What follows"
          value={what}
          of={{ both: "place and turn", position: "place", rotation: "turn" }}
          onChange={(v) => set({ position: v !== "rotation", rotation: v !== "position" })}
        />
        , <Num label="Lag" pin="lag" value={m.lag} kind="time" onChange={(lag) => set({ lag })} /> later.
      </>
    );
  },

  orbit: (t) => {
    const m = t.move.orbit!;
    const set = (c: Partial<typeof m>) => t.set({ orbit: { ...m, ...c } });
    return (
      <>
        <Name part={t.part} /> orbits{" "}
        <Other
          shot={t.shot}
          not={t.part}
          label="Target"
          value={m.target}
          none="a point"
          onChange={(target) => set({ target })}
        />
        {m.target === "" && (
          <Vector
            label="Point"
            pin="point"
            value={m.point}
            kind="length"
            onChange={(point) => set({ point })}
          />
        )}{" "}
        by{" "}
        <Num
          label="Turns"
          pin="turns"
          value={m.turns}
          kind="angle"
          turns
          onChange={(turns) => set({ turns })}
        />{" "}
        at{" "}
        <Num
          label="Radius of the orbit"
          pin="radius"
          value={m.radius}
          kind="length"
          min={1e-6}
          onChange={(radius) => set({ radius })}
        />{" "}
        from it and{" "}
        <Num
          label="Height over the target"
          pin="height"
          value={m.height}
          kind="length"
          onChange={(height) => set({ height })}
        />{" "}
        above, beginning at{" "}
        <Num label="Start" pin="start" value={m.start} kind="angle" onChange={(start) => set({ start })} />
        {", rising and falling by "}
        <Num
          label="Wave"
          pin="wave"
          value={m.wave ?? 0}
          kind="length"
          onChange={(wave) => set({ wave, waves: m.waves || 1 })}
        />
        <Timing {...t} />
      </>
    );
  },

  flight: (t) => {
    const m = t.move.flight!;
    return (
      <>
        <Name part={t.part} /> flies through {m.stops.length} {m.stops.length === 1 ? "stop" : "stops"}:{" "}
        {m.stops.map((s, i) => {
          const set = (c: Partial<typeof s>) =>
            t.set({ flight: { stops: m.stops.map((o, k) => (k === i ? { ...o, ...c } : o)) } });
          return (
            <span key={i}>
              {i > 0 && "; "}
              {i + 1} at{" "}
              <Num label={`Stop ${i + 1} at`} value={s.at} kind="time" onChange={(at) => set({ at })} />,
              resting{" "}
              <Num
                label={`Rest ${i + 1}`}
                value={s.rest}
                kind="time"
                min={0}
                onChange={(rest) => set({ rest })}
              />
            </span>
          );
        })}
        .
      </>
    );
  },

  reveal: (t) => {
    const m = t.move.reveal!;
    const set = (c: Partial<typeof m>) => t.set({ reveal: { ...m, ...c } });
    return (
      <>
        The parts of <Name part={t.part} /> arrive{" "}
        <Word
          label="Order"
          value={m.order}
          of={{
            list: "as they are listed",
            left: "from the left",
            right: "from the right",
            centre: "from the centre",
            random: "at random",
          }}
          onChange={(order) => set({ order })}
        />
        , by{" "}
        <Word
          label="Arriving by"
          value={m.from}
          of={{ scale: "growing", slide: "sliding", turn: "turning", fade: "fading in" }}
          onChange={(from) => set({ from })}
        />
        {m.from === "slide" && (
          <>
            {" from"}
            <Vector label="From" pin="by" value={m.by} kind="length" onChange={(by) => set({ by })} />
          </>
        )}
        {m.from === "turn" && (
          <>
            {" by "}
            <Num label="Turn" pin="turn" value={m.turn} kind="angle" onChange={(turn) => set({ turn })} />
          </>
        )}
        , each{" "}
        <Num
          label="Delay"
          pin="delay"
          value={m.delay}
          kind="time"
          min={0}
          onChange={(delay) => set({ delay })}
        />{" "}
        after the one before, in{" "}
        <Num
          label="Takes"
          pin="takes"
          value={m.takes}
          kind="time"
          min={0.001}
          onChange={(takes) => set({ takes })}
        />
        , beginning at{" "}
        <Num
          label="Begins"
          value={t.move.span?.from ?? 0}
          kind="time"
          onChange={(from) => t.set({ span: { from, to: from + Math.max(1, m.takes) } })}
        />
        , at <PaceWords {...t} />.
      </>
    );
  },

  unfold: (t) => {
    const m = t.move.unfold!;
    const set = (c: Partial<typeof m>) => t.set({ unfold: { ...m, ...c } });
    return (
      <>
        Unfold <Name part={t.part} />: its panels turn by{" "}
        <Num label="Angle" pin="angle" value={m.angle} kind="angle" onChange={(angle) => set({ angle })} />{" "}
        about their hinges,{" "}
        <Word
          label="Order"
          value={m.order}
          of={{ together: "all together", list: "one after another" }}
          onChange={(order) => set({ order })}
        />
        {m.order === "list" && (
          <>
            {", each in "}
            <Num
              label="Share"
              pin="share"
              scale={100}
              value={m.share * 100}
              kind="percent"
              min={1}
              max={100}
              onChange={(v) => set({ share: v / 100 })}
            />{" "}
            of the whole
          </>
        )}
        ,{" "}
        <Word
          label="Panels on panels"
          value={m.deep ? "too" : "not"}
          of={{ too: "with the panels on them", not: "without the panels on them" }}
          onChange={(v) => set({ deep: v === "too" })}
        />
        {"; "}
        <Pick
          inline
          label="What stays"
          value={m.base ?? ""}
          choices={[
            { value: "", name: "none of them stays" },
            ...t.shot.document.parts
              .filter((p) => p.parent === t.part.id)
              .map((p) => ({ value: p.id, name: `${p.name} stays` })),
          ]}
          onChange={(base) => set({ base: base || undefined })}
        />
        <Timing {...t} />
      </>
    );
  },

  burst: (t) => {
    const m = t.move.burst!;
    const set = (c: Partial<typeof m>) => t.set({ burst: { ...m, ...c } });
    return (
      <>
        The parts of <Name part={t.part} /> burst apart by up to{" "}
        <Num
          label="Spread"
          pin="spread"
          value={m.spread}
          kind="length"
          onChange={(spread) => set({ spread })}
        />
        , turning by up to{" "}
        <Num label="Turn" pin="turn" value={m.turn} kind="angle" onChange={(turn) => set({ turn })} />, by the
        seed{" "}
        <Num
          label="Seed"
          value={m.seed}
          kind="number"
          whole
          min={0}
          max={1e9}
          onChange={(seed) => set({ seed })}
        />
        <Timing {...t} />
      </>
    );
  },

  squash: (t) => {
    const m = t.move.squash!;
    const set = (c: Partial<typeof m>) => t.set({ squash: { ...m, ...c } });
    return (
      <>
        {m.amount < 0 ? "Squash" : "Stretch"} <Name part={t.part} /> by{" "}
        <Num
          label="Amount"
          pin="amount"
          scale={100}
          value={m.amount * 100}
          kind="percent"
          min={-99}
          onChange={(v) => set({ amount: v / 100 })}
        />{" "}
        along its{" "}
        <Word
          label="Along"
          value={(["x", "y", "z"] as const)[m.axis]!}
          of={{ x: "width", y: "height", z: "depth" }}
          onChange={(v) => set({ axis: "xyz".indexOf(v) })}
        />
        , keeping its volume
        <Timing {...t} />
      </>
    );
  },

  skim: (t) => {
    const m = t.move.skim!;
    const set = (c: Partial<typeof m>) => t.set({ skim: { ...m, ...c } });
    return (
      <>
        <Name part={t.part} /> skims over{" "}
        <Other shot={t.shot} not={t.part} label="Surface" value={m.on} onChange={(on) => set({ on })} /> where
        a plane across its <Axis label="Plane" value={m.normal} onChange={(normal) => set({ normal })} />, off
        its pivot by{" "}
        <Num label="Offset" value={m.offset} kind="length" onChange={(offset) => set({ offset })} />, cuts it,{" "}
        <Num label="Away" pin="away" value={m.away} kind="length" onChange={(away) => set({ away })} /> away,{" "}
        <Word
          label="Round"
          value={m.flip ? "other" : "one"}
          of={{ one: "one way round", other: "the other way round" }}
          onChange={(v) => set({ flip: v === "other" })}
        />
        <Timing {...t} />
        {!m.contour?.length && (
          <span className="text-coral"> The plane does not cut the surface in a closed line.</span>
        )}
      </>
    );
  },
};

const firstPoints = (size: number): [number, number, number][] => [
  [0, 0, 0],
  [size, 0, size / 2],
  [size * 2, 0, 0],
];

function further(points: [number, number, number][]): [number, number, number] {
  const [a, b] = [points.at(-2)!, points.at(-1)!];
  return b.map((v, i) => 2 * v - a[i]!) as [number, number, number];
}

function TurntableWords({
  part,
  t,
  set,
}: {
  part: Part;
  t: Turntable;
  set: (t: Partial<Turntable>) => void;
}) {
  const turns = (
    <>
      <Num
        label="Turns"
        value={t.turns}
        kind="angle"
        turns
        whole
        min={1}
        max={1000}
        onChange={(v) => set({ turns: v })}
      />{" "}
      <Word
        label="Direction"
        value={t.direction}
        of={directions}
        onChange={(direction) => set({ direction })}
      />
    </>
  );
  const mover = (
    <Word
      label="What moves"
      value={t.moves}
      of={{ object: `the ${part.name.toLowerCase()}`, camera: "the camera" }}
      onChange={(moves) => set({ moves })}
    />
  );
  return t.moves === "object" ? (
    <>
      Turn {mover} by {turns}, with the plinth{" "}
      <Word
        label="The plinth"
        value={t.plinth ? "along" : "still"}
        of={{ along: "turning along", still: "standing still" }}
        onChange={(v) => set({ plinth: v === "along" })}
      />
      , over the whole shot, at constant speed.
    </>
  ) : (
    <>
      Move {mover} by {turns} round the {part.name.toLowerCase()}, over the whole shot, at constant speed.
    </>
  );
}
