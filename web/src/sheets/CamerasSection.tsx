import { Crosshair } from "lucide-react";
import { newId } from "../api/ids";
import { setPicture } from "../api/edits";
import { useEdits } from "../api/queries";
import type { Part, ShotReply } from "../api/types.gen";
import { Button, Pick, Row } from "../fields/controls";
import { clock } from "../state/clock";
import { select, useUi } from "../state/ui";
import { usePicked } from "../views/pick";
import { benchView } from "./AddPart";
import { partChoices } from "./LightSentence";
import { CameraPlan } from "./CameraPlan";
import { Section } from "./Section";

/** The cameras of the shot: which is in use, which is looked through, and what else they do. */
export function CamerasSection({ shot, camera }: { shot: ShotReply; camera?: Part }) {
  const { edit, make } = useEdits();
  const d = shot.document;
  const through = useUi((s) => s.through);
  const cameras = d.parts.filter((p) => p.camera);
  const look = (id: string) => useUi.setState({ through: id === d.camera || id === through ? null : id });
  return (
    <Section title="Cameras" note={cameras.length}>
      <ul aria-label="Cameras">
        {cameras.map((c) => (
          <li
            key={c.id}
            className={`flex h-[28px] items-center gap-1 rounded-sm px-1 ${c.id === camera?.id ? "bg-verdigris/20" : ""}`}
          >
            <button
              type="button"
              className="min-w-0 flex-1 truncate text-left"
              aria-pressed={c.id === camera?.id}
              onClick={() => select(c.id)}
            >
              {c.name}
              {c.locked && <span className="text-quiet"> · locked</span>}
            </button>
            {c.id === d.camera ? (
              <span className="text-[11px] text-verdigris">in use</span>
            ) : (
              <>
                <button
                  type="button"
                  aria-pressed={through === c.id}
                  className={`rounded-sm px-1 text-[11px] ${through === c.id ? "bg-verdigris/25 text-ink" : "text-quiet hover:text-ink"}`}
                  onClick={() => look(c.id)}
                >
                  look through
                </button>
                <button
                  type="button"
                  className="rounded-sm px-1 text-[11px] text-quiet hover:text-ink"
                  onClick={() => {
                    useUi.setState({ through: null });
                    void edit(setPicture({ camera: c.id }));
                  }}
                >
                  use
                </button>
              </>
            )}
          </li>
        ))}
      </ul>
      <div className="mt-1 flex flex-wrap gap-1.5">
        <Button
          title="With the lens of the one in use, which stays as it is"
          onClick={() => void make({ addCamera: { id: newId(), from: benchView() } })}
        >
          Add one from the bench
        </Button>
        <Button title="Where the one in use stands" onClick={() => void make({ addCamera: { id: newId() } })}>
          Add one here
        </Button>
      </div>
      <CameraPlan shot={shot} camera={camera} />
      {camera && <Aims shot={shot} camera={camera} />}
    </Section>
  );
}

/** What a camera is aimed at, and what it rides along with. */
function Aims({ shot, camera }: { shot: ShotReply; camera: Part }) {
  const { edit } = useEdits();
  const picking = useUi((s) => s.picking);
  usePicked("aim", (p) => {
    useUi.setState({ picking: null });
    void edit({ aimAt: { part: camera.id, point: p.point.toArray(), frame: clock.frame } });
  });
  const aim = camera.moves.find((m) => m.kind === "aim");
  const target = (shot.moves.find((m) => m.move === aim?.id)?.values.target as string | undefined) ?? "";
  return (
    <>
      <Row label="Aim it">
        <span className="flex gap-1">
          <Button onClick={() => void edit({ aimAt: { part: camera.id, frame: clock.frame } })}>
            at the middle
          </Button>
          <Button
            primary={picking === "aim"}
            onClick={() => useUi.setState({ picking: picking === "aim" ? null : "aim" })}
          >
            <Crosshair size={13} /> at a point…
          </Button>
        </span>
      </Row>
      <Pick
        label="Kept aimed at"
        value={target}
        choices={[
          { value: "", name: "nothing" },
          ...partChoices(
            shot,
            (p) => !p.light && !p.camera && p.kind !== "floor" && p.kind !== "cutter",
            target,
          ),
        ]}
        onChange={(to) => {
          if (to === "") {
            if (aim) void edit({ removeMoves: { moves: [aim.id] } });
          } else if (aim) void edit({ setMove: { move: aim.id, values: { target: to } } });
          else {
            const id = newId();
            void edit(
              { addMove: { part: camera.id, kind: "aim", id } },
              { setMove: { move: id, values: { target: to } } },
            );
          }
        }}
      />
      <Pick
        label="Rides along with"
        value={camera.parent}
        choices={[
          { value: "", name: "nothing" },
          ...partChoices(
            shot,
            (p) =>
              p.id !== camera.id &&
              !p.light &&
              !p.camera &&
              p.kind !== "floor" &&
              p.kind !== "cutter" &&
              !p.copies,
            camera.parent,
          ),
        ]}
        onChange={(parent) => void edit({ putIn: { parts: [camera.id], parent, before: "", keep: true } })}
      />
    </>
  );
}
