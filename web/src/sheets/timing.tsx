import { instead, setMove } from "../api/edits";
import { useKinds } from "../api/kinds";
import { Pick } from "../fields/controls";
import { PacePad } from "./PacePad";
import { Num, Word, type Told } from "./words";
import { useMoveEdits } from "./alike";

/** ", over the whole loop, then it stays, at constant speed." */
export const Timing = (t: Told) => (
  <>
    , <SpanWords {...t} />, at <PaceWords {...t} />.
  </>
);

/** When a move with a length of its own begins. */
export function Begin({ move }: Told) {
  const edit = useMoveEdits();
  const { from, to } = move.span ?? { from: 0, to: 1 };
  return (
    <Num
      label="Begins"
      value={from}
      kind="time"
      onChange={(v) => void edit(setMove(move.id, { span: { from: v, to: v + to - from } }))}
    />
  );
}

/** "over the whole loop, then it stays" of a move that goes by a clock of its own. */
export function Span(t: Told) {
  return <SpanWords {...t} own />;
}

/** When a move acts, and what follows. */
function SpanWords({ shot, move, own }: Told & { own?: boolean }) {
  const edit = useMoveEdits();
  const set = (c: object) => void edit(setMove(move.id, c));
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
            onChange={(from) => set({ span: { from } })}
          />{" "}
          to <Num label="To" value={s.to} kind="time" digits={2} onChange={(to) => set({ span: { to } })} />
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
      {(!own || s) && (
        <>
          , then it{" "}
          <Word
            label="Afterwards"
            value={move.after || "stays"}
            of={{
              stays: "stays",
              returns: "returns",
              ...(!own && {
                repeats: "repeats",
                "carries on": "carries on",
                "there and back": "goes there and back",
              }),
            }}
            onChange={(after) => set({ after })}
          />
        </>
      )}
    </>
  );
}

const gentle = { in: "starting gently", out: "ending gently", both: "gentle at both ends" };

export function PaceWords({ shot, move }: Told) {
  const edit = useMoveEdits();
  const paces = useKinds()?.paces ?? [];
  const p = move.pace;
  const kind = p.kind || "constant";
  const change = (c: object) => void edit(setMove(move.id, { pace: c }));
  return (
    <>
      <Pick
        inline
        label="Pace"
        value={kind}
        choices={paces.map((x) => ({ value: x.kind, name: x.name }))}
        onChange={(k) => change(instead(p, paces.find((x) => x.kind === k)!.first))}
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
                  void edit((now) => {
                    const held = now.document.parts.flatMap((q) => q.moves).find((m) => m.id === move.id);
                    const handles = held?.pace.bezier ?? p.bezier!;
                    return setMove(move.id, {
                      pace: { bezier: handles.map((o, k) => (k === i ? w : o)) },
                    });
                  })
                }
              />
            </span>
          ))}
          {")"}
        </>
      )}
      {(kind === "bezier" || kind === "drawn") && (
        <PacePad
          pace={p}
          course={shot.moves.find((r) => r.move === move.id)?.bar.pace}
          onChange={(pace) => change(instead(p, pace))}
        />
      )}
      {kind === "spring" && p.spring && (
        <>
          {" "}
          of stiffness{" "}
          <Num
            label="Stiffness"
            value={p.spring.stiffness}
            kind="number"
            min={0.001}
            onChange={(stiffness) => change({ spring: { stiffness } })}
          />{" "}
          and damping{" "}
          <Num
            label="Damping"
            value={p.spring.damping}
            kind="number"
            min={0.001}
            onChange={(damping) => change({ spring: { damping } })}
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
