import { EyeOff, Trash2, Volume2 } from "lucide-react";
import { useEdits } from "../api/queries";
import type { Float, Move, Part, ShotReply, Turn, Turntable } from "../api/types.gen";
import { Pick } from "../fields/controls";
import { NumberField } from "../fields/NumberField";

type Change = (m: Partial<Move>) => void;

const directions = [
  { value: "clockwise", name: "clockwise" },
  { value: "counterclockwise", name: "counterclockwise" },
];

/** A move, read as a sentence whose words are the controls. */
export function MoveSentence({ shot, part, move }: { shot: ShotReply; part: Part; move: Move }) {
  const { edit } = useEdits();
  const set: Change = (m) => void edit({ setMove: { move: { ...move, ...m } } });
  const closing = shot.closings.find((c) => c.move === move.id);
  const tool = "rounded-sm p-1 text-quiet hover:text-ink";
  return (
    <div
      className="group border-t border-line py-2 first-of-type:border-t-0"
      data-testid={`move-${move.kind}`}
    >
      <div className="flex items-start gap-1">
        <p className={`flex-1 text-[13px] leading-[27px] ${move.muted ? "opacity-50" : ""}`}>
          {move.turntable && (
            <TurntableWords
              part={part}
              t={move.turntable}
              set={(t) => set({ turntable: { ...move.turntable!, ...t } })}
            />
          )}
          {move.turn && (
            <TurnWords
              part={part}
              frames={shot.document.frames}
              t={move.turn}
              set={(t) => set({ turn: { ...move.turn!, ...t } })}
            />
          )}
          {move.float && (
            <FloatWords part={part} f={move.float} set={(f) => set({ float: { ...move.float!, ...f } })} />
          )}
        </p>
        <span className="flex opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
          <button
            type="button"
            className={tool}
            title={move.muted ? "Let it act again" : "Mute: keep it, without effect"}
            aria-label={move.muted ? "Let it act again" : "Mute"}
            onClick={() => set({ muted: !move.muted })}
          >
            {move.muted ? <EyeOff size={13} /> : <Volume2 size={13} />}
          </button>
          <button
            type="button"
            className={tool}
            title="Remove the move"
            aria-label="Remove the move"
            onClick={() => void edit({ removeMove: { move: move.id } })}
          >
            <Trash2 size={13} />
          </button>
        </span>
      </div>
      {move.muted ? (
        <p className="text-[11px] text-quiet">muted</p>
      ) : (
        closing && (
          <>
            <p
              className={`flex items-baseline gap-1.5 text-[12px] ${closing.closes ? "text-fern" : "text-coral"}`}
            >
              <span className="size-2 shrink-0 rounded-full bg-current" /> {closing.words}
            </p>
            {closing.mends.length > 0 && (
              <div className="mt-1.5 flex flex-wrap gap-1.5">
                {closing.mends.map((m, i) => (
                  <button
                    key={m.words}
                    type="button"
                    onClick={() => void edit(m.edit)}
                    className={`h-[24px] rounded-md border px-2 font-medium ${i === 0 ? "border-verdigris bg-verdigris text-on-verdigris" : "border-line hover:bg-raised"}`}
                  >
                    {m.words}
                  </button>
                ))}
              </div>
            )}
          </>
        )
      )}
    </div>
  );
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
      <NumberField
        inline
        label="Turns"
        value={t.turns}
        kind="angle"
        unit={t.turns === 1 ? "turn" : "turns"}
        digits={0}
        whole
        min={1}
        max={1000}
        onChange={(v) => set({ turns: Math.round(v) })}
      />{" "}
      <Pick
        inline
        label="Direction"
        value={t.direction}
        choices={directions}
        onChange={(direction) => set({ direction })}
      />
    </>
  );
  const mover = (
    <Pick
      inline
      label="What moves"
      value={t.moves}
      choices={[
        { value: "object", name: `the ${part.name.toLowerCase()}` },
        { value: "camera", name: "the camera" },
      ]}
      onChange={(moves) => set({ moves })}
    />
  );
  return t.moves === "object" ? (
    <>
      Turn {mover} by {turns}, with the plinth{" "}
      <Pick
        inline
        label="The plinth"
        value={t.plinth}
        choices={[
          { value: true, name: "turning along" },
          { value: false, name: "standing still" },
        ]}
        onChange={(plinth) => set({ plinth })}
      />
      , over the whole shot, at constant speed.
    </>
  ) : (
    <>
      Move {mover} by {turns} round the {part.name.toLowerCase()}, over the whole shot, at constant speed.
    </>
  );
}

const axes: Record<string, [number, number, number]> = {
  upright: [0, 1, 0],
  sideways: [1, 0, 0],
  lengthways: [0, 0, 1],
};
const eased = [0.42, 0, 0.58, 1] as [number, number, number, number]; // CSS ease-in-out

function TurnWords({
  part,
  frames,
  t,
  set,
}: {
  part: Part;
  frames: number;
  t: Turn;
  set: (t: Partial<Turn>) => void;
}) {
  const axis = Object.keys(axes).find((k) => axes[k]!.every((v, i) => v === t.axis[i])) ?? "typed";
  const span = t.span;
  return (
    <>
      Turn <strong className="font-semibold">{part.name}</strong> by{" "}
      <NumberField
        inline
        label="Turns"
        value={t.turns}
        kind="angle"
        unit={t.turns === 1 ? "turn" : "turns"}
        onChange={(turns) => set({ turns })}
      />{" "}
      <Pick
        inline
        label="Direction"
        value={t.direction}
        choices={directions}
        onChange={(direction) => set({ direction })}
      />{" "}
      about its{" "}
      <Pick
        inline
        label="Axis"
        value={axis}
        choices={[...Object.keys(axes), ...(axis === "typed" ? ["typed"] : [])].map((k) => ({
          value: k,
          name: `${k} axis`,
        }))}
        onChange={(k) => axes[k] && set({ axis: axes[k] })}
      />
      ,{" "}
      <Pick
        inline
        label="Span"
        value={span === null ? "whole" : "part"}
        choices={[
          { value: "whole", name: "over the whole shot" },
          { value: "part", name: "from a frame to a frame" },
        ]}
        onChange={(v) =>
          set({ span: v === "whole" ? null : { from: 0, to: Math.max(1, Math.round(frames / 2)) } })
        }
      />
      {span && (
        <>
          :{" "}
          <NumberField
            inline
            label="From"
            value={span.from}
            kind="time"
            unit="f"
            digits={2}
            onChange={(from) => set({ span: { ...span, from } })}
          />{" "}
          to{" "}
          <NumberField
            inline
            label="To"
            value={span.to}
            kind="time"
            unit="f"
            digits={2}
            onChange={(to) => set({ span: { ...span, to } })}
          />
          , then it{" "}
          <Pick
            inline
            label="Afterwards"
            value={t.after}
            choices={["stays", "returns", "repeats", "carries on"].map((v) => ({ value: v, name: v }))}
            onChange={(after) => set({ after })}
          />
        </>
      )}
      , at{" "}
      <Pick
        inline
        label="Pace"
        value={t.pace.kind}
        choices={[
          { value: "constant", name: "constant speed" },
          { value: "bezier", name: "an eased pace" },
        ]}
        onChange={(kind) => set({ pace: kind === "constant" ? { kind } : { kind, bezier: eased } })}
      />
      .
    </>
  );
}

function FloatWords({ part, f, set }: { part: Part; f: Float; set: (f: Partial<Float>) => void }) {
  return (
    <>
      Float <strong className="font-semibold">{part.name}</strong>{" "}
      <NumberField
        inline
        label="Height"
        value={f.height}
        kind="length"
        unit="mm"
        digits={2}
        min={0}
        onChange={(height) => set({ height })}
      />{" "}
      up and down every{" "}
      <NumberField
        inline
        label="Period"
        value={f.period}
        kind="time"
        unit="f"
        digits={3}
        min={0.001}
        onChange={(period) => set({ period })}
      />
      , tilting{" "}
      <NumberField
        inline
        label="Tilt"
        value={f.tilt / (2 * Math.PI)}
        kind="angle"
        unit="°"
        digits={2}
        onChange={(v) => set({ tilt: v * 2 * Math.PI })}
      />
      .
    </>
  );
}
