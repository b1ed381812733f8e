import { api } from "../api/client";
import { rehearse, useRehearsal } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { Button } from "../fields/controls";
import { clock } from "../state/clock";
import { say } from "../state/notices";
import { Section } from "./Section";

/** How many pictures the strip shows beside those in which something was found. */
const strip = 24;

/** The whole shot rendered very small, looked at as pictures: what rules do not foresee. */
export function Rehearsal({ shot }: { shot: ShotReply }) {
  const r = useRehearsal(shot.id);
  const mine = r !== undefined && r.version === shot.version && r.state !== "none";
  const running = r?.state === "running" && mine;
  const begin = () => void rehearse(shot.id).catch((e: unknown) => say((e as Error).message));
  const told = new Set(mine ? r.findings.flatMap((f) => f.frames ?? []) : []);
  const every = mine ? Math.max(1, Math.ceil(r.frames.length / strip)) : 1;
  const shown = mine
    ? r.frames
        .map((frame, n) => ({ frame, n }))
        .filter(({ frame, n }) => n < r.done && (n % every === 0 || told.has(frame)))
    : [];
  return (
    <Section
      title="Rehearsal"
      note={
        running
          ? `${r.done} of ${r.frames.length || "…"}`
          : mine && r.state === "done"
            ? `${r.done} frames`
            : undefined
      }
    >
      <p className="text-quiet">
        {!mine
          ? "Renders the whole shot very small and looks at the pictures: black or burnt-out frames, shadows cut by the edge, single frames that flicker, a seam that shows."
          : running
            ? "The whole shot is being rendered very small."
            : r.state === "failed"
              ? `It failed: ${r.problem ?? ""}`
              : r.state === "stopped"
                ? "It was stopped."
                : r.findings.length === 0
                  ? "Nothing was found in the pictures."
                  : "What was found in the pictures stands in the list."}
      </p>
      {shown.length > 0 && (
        <div className="mt-2 flex flex-wrap gap-px" aria-label="Rehearsed frames">
          {shown.map(({ frame, n }) => (
            <button
              key={n}
              type="button"
              title={`Frame ${frame}`}
              aria-label={`Frame ${frame}`}
              onClick={() => {
                clock.play(0);
                clock.seek(frame);
              }}
              className={`border bg-ground ${told.has(frame) ? "border-coral" : "border-line"}`}
            >
              <img src={api.rehearsed(shot.id, r!.version, n)} alt="" className="h-[34px] w-auto" />
            </button>
          ))}
        </div>
      )}
      <div className="mt-2 flex gap-1.5">
        {running ? (
          <Button onClick={() => void api.stopRehearsal(shot.id)}>Stop</Button>
        ) : (
          !(mine && r.state === "done") && <Button onClick={begin}>Rehearse</Button>
        )}
      </div>
    </Section>
  );
}
