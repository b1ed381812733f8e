import { ArrowLeft, ArrowRight, Trash2 } from "lucide-react";
import { newId } from "../api/ids";
import { useEdits } from "../api/queries";
import type { Angle, ShotReply } from "../api/types.gen";
import { Button, TextField } from "../fields/controls";
import { clock } from "../state/clock";
import { useRestingFrame } from "../state/resting";
import { useUi } from "../state/ui";
import { benchView } from "./AddPart";
import { hashOf } from "./MaterialsSection";
import { Section } from "./Section";

/** The address of what an angle sees on a frame, rendered. */
export const angleOf = (shot: ShotReply, a: Angle, frame: number, width = 160) =>
  `/api/shots/${shot.id}/angles/picture?angle=${encodeURIComponent(a.id)}&frame=${frame}&width=${width}&as=${hashOf([a, shot.version])}`;

/** Views that were kept: chosen, compared, named, put in order, used. */
export function AnglesSection({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const angles = shot.document.angles ?? [];
  const compared = useUi((s) => s.compared);
  const overlay = useUi((s) => s.overlay);
  const picked = useUi((s) => s.angle);
  const frame = useRestingFrame();
  const angle = angles.find((a) => a.id === picked);
  const mark = (id: string) =>
    useUi.setState({
      compared: compared.includes(id) ? compared.filter((x) => x !== id) : [...compared, id].slice(-6),
    });
  return (
    <Section title="Angles" note={angles.length || undefined}>
      {angles.length === 0 && (
        <p className="mb-1.5 text-quiet">
          An angle is a view that is kept: place, aim, lens and format. Keep a few, compare them while they
          play, and use one.
        </p>
      )}
      <ul className="grid max-h-[330px] grid-cols-2 gap-1.5 overflow-y-auto" aria-label="Angles">
        {angles.map((a) => (
          <li
            key={a.id}
            className={`rounded-sm border p-1 ${a.id === picked ? "border-verdigris" : "border-line"}`}
          >
            <button
              type="button"
              title={a.note || a.name}
              aria-pressed={a.id === picked}
              className="block w-full"
              onClick={() => useUi.setState({ angle: a.id === picked ? null : a.id })}
            >
              <span className="checker flex h-[76px] items-center justify-center overflow-hidden rounded-sm">
                <img
                  src={angleOf(shot, a, frame)}
                  alt={`What ${a.name} sees`}
                  className="max-h-full max-w-full"
                />
              </span>
              <span className="mt-0.5 block truncate text-left">{a.name}</span>
            </button>
            <label className="flex items-center gap-1 text-[11px] text-quiet">
              <input type="checkbox" checked={compared.includes(a.id)} onChange={() => mark(a.id)} /> compare
            </label>
          </li>
        ))}
      </ul>
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        <Button
          title="What the picture shows now, as an angle"
          onClick={() => {
            const through = useUi.getState().through;
            void edit({ keepAngle: { id: newId(), camera: through ?? undefined, frame: clock.frame } });
          }}
        >
          Keep the picture
        </Button>
        <Button
          title="What the bench looks at, through the lens in use"
          onClick={() => void edit({ keepAngle: { id: newId(), from: benchView(), frame: clock.frame } })}
        >
          Keep the bench
        </Button>
        {compared.length > 1 && (
          <Button primary onClick={() => useUi.setState({ comparing: true })}>
            Compare {compared.length}
          </Button>
        )}
      </div>
      {angle && (
        <div className="mt-2 border-t border-line pt-2">
          <TextField
            label="Name"
            value={angle.name}
            onChange={(name) => void edit({ setAngle: { angle: angle.id, name } })}
          />
          <TextField
            label="Note"
            value={angle.note ?? ""}
            onChange={(note) => void edit({ setAngle: { angle: angle.id, note } })}
          />
          <p className="my-1 text-[11px] text-quiet">
            {angle.format.width} × {angle.format.height}, {Number(angle.lens.focal.toFixed(1))} mm
          </p>
          <div className="flex flex-wrap gap-1.5">
            <Button
              primary
              title="The camera in use goes there; one that is locked or moves stays, and another takes its place"
              onClick={() => void edit({ useAngle: { angle: angle.id, id: newId() } })}
            >
              Use it
            </Button>
            <Button
              onClick={() => useUi.setState({ overlay: overlay === angle.id ? null : angle.id })}
              title="Lay it over the picture at half strength, to match it"
            >
              {overlay === angle.id ? "Take it off the picture" : "Lay it over"}
            </Button>
            <Button
              label="Earlier"
              title="Earlier in their order"
              onClick={() => void edit({ setAngle: { angle: angle.id, to: angles.indexOf(angle) - 1 } })}
            >
              <ArrowLeft size={13} />
            </Button>
            <Button
              label="Later"
              title="Later in their order"
              onClick={() => void edit({ setAngle: { angle: angle.id, to: angles.indexOf(angle) + 1 } })}
            >
              <ArrowRight size={13} />
            </Button>
            <Button
              label={`Forget ${angle.name}`}
              title="Forget it"
              onClick={() => void edit({ removeAngle: { angle: angle.id } })}
            >
              <Trash2 size={13} />
            </Button>
          </div>
        </div>
      )}
    </Section>
  );
}
