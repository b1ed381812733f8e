import { ChevronDown, ChevronUp, CopyPlus, EyeOff, Headphones, Trash2, Volume2 } from "lucide-react";
import { setMove } from "../api/edits";
import type { Move, Part, ShotReply } from "../api/types.gen";
import { Button } from "../fields/controls";
import { useUi } from "../state/ui";
import { clock } from "../state/clock";
import { MoveWords } from "./MoveWords";
import { useMoveEdits } from "./alike";

/** A move, read as a sentence whose words are the controls. */
export function MoveSentence({ shot, part, move }: { shot: ShotReply; part: Part; move: Move }) {
  const edit = useMoveEdits();
  const recording = useUi((s) => s.recording);
  const set = (c: object) => void edit(setMove(move.id, c));
  const closing = shot.moves.find((c) => c.move === move.id);
  const at = part.moves.findIndex((m) => m.id === move.id);
  const others = useUi((s) => s.chosen).filter((id) => id !== part.id);
  const tool = "rounded-sm p-1 text-quiet hover:text-ink";
  return (
    <div
      className="group relative border-t border-line py-2 first-of-type:border-t-0"
      data-testid={`move-${move.kind}`}
    >
      <div>
        <span className="float-right ml-1 flex opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
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
            aria-pressed={!!move.solo}
            title={move.solo ? "Let the others act again" : "Alone: the part's other moves rest"}
            aria-label="Alone"
            onClick={() => set({ solo: !move.solo })}
          >
            <Headphones size={13} className={move.solo ? "text-brass" : ""} />
          </button>
          {part.moves.length > 1 && (
            <button
              type="button"
              className={tool}
              title={at > 0 ? "Earlier in the stack" : "Later in the stack"}
              aria-label={at > 0 ? "Earlier in the stack" : "Later in the stack"}
              onClick={() => void edit({ moveMove: { move: move.id, to: at > 0 ? at - 1 : 1 } })}
            >
              {at > 0 ? <ChevronUp size={13} /> : <ChevronDown size={13} />}
            </button>
          )}
          {others.length > 0 && (
            <button
              type="button"
              className={tool}
              title={`Copy it to the ${others.length} other selected ${others.length === 1 ? "part" : "parts"}`}
              aria-label="Copy to the other selected parts"
              onClick={() => void edit({ copyMove: { move: move.id, onto: others } })}
            >
              <CopyPlus size={13} />
            </button>
          )}
          <button
            type="button"
            className={tool}
            title="Remove the move"
            aria-label="Remove the move"
            onClick={() => void edit({ removeMoves: { moves: [move.id] } })}
          >
            <Trash2 size={13} />
          </button>
        </span>
        <p className={`text-[13px] leading-[27px] ${move.muted ? "opacity-50" : ""}`}>
          {move.backwards && (
            <>
              <button
                type="button"
                className="stitched font-semibold"
                title="Let it run forwards again"
                onClick={() => set({ backwards: undefined })}
              >
                Backwards
              </button>
              {": "}
            </>
          )}
          <MoveWords
            shot={shot}
            part={part}
            move={move}
            set={(value, to) =>
              void edit((now) => ({
                setMove: {
                  move: move.id,
                  values: {
                    [value]:
                      typeof to === "function"
                        ? (to as (v: unknown) => unknown)(
                            now.moves.find((m) => m.move === move.id)?.values[value],
                          )
                        : to,
                  },
                  frame: clock.frame,
                  record: recording,
                },
              }))
            }
          />
        </p>
      </div>
      {move.kind === "play" && (
        <div className="mt-1 mb-1.5 flex flex-wrap gap-1.5">
          <Button
            title="One round of the clip over the whole shot, so that a turntable closes with it"
            onClick={() => void edit({ asLongAs: { move: move.id } })}
          >
            Shot as long as the clip
          </Button>
          <Button
            title="Each part that the clip moves gets pins that say the same; the move goes"
            onClick={() => void edit({ clipToPins: { move: move.id } })}
          >
            Turn into pins
          </Button>
        </div>
      )}
      {move.muted ? (
        <p className="text-[11px] text-quiet">muted</p>
      ) : (
        closing?.words && (
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
                    onClick={() => void edit(...m.edits)}
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
