import { useState } from "react";
import { useKinds } from "../api/kinds";
import { useCurves, useEdits } from "../api/queries";
import type { Part, PinRef, ShotReply } from "../api/types.gen";
import { Button, Pick } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import type { Kind } from "../fields/quantity";
import { clock, useFrame } from "../state/clock";
import { curveOf, pinAt, valueAt } from "../score/curves";
import { Section } from "./Section";

const shownAs: Record<string, { kind: Kind; unit: string; one: number }> = {
  length: { kind: "length", unit: "mm", one: 1 },
  angle: { kind: "angle", unit: "°", one: 2 * Math.PI },
  share: { kind: "percent", unit: "%", one: 0.01 },
};

/**
 * What pins say of a part at the playhead; changing a value places a pin there, and so does typing the one that is there.
 * Other parts that are selected with it are pinned along with it.
 */
export function PinsFields({ shot, part, others = [] }: { shot: ShotReply; part: Part; others?: Part[] }) {
  const { edit } = useEdits();
  const frame = useFrame();
  const [all, setAll] = useState(false);
  const tracks = part.tracks ?? [];
  const values = useKinds()?.values ?? [];
  const curves = useCurves(shot, part.id, tracks.length > 0);
  const ref = (value: string, time = frame): PinRef => ({ part: part.id, value, time });
  const parts = [part, ...others];
  const every = parts.flatMap((p) =>
    (p.tracks ?? []).flatMap((t) => t.pins.map((q) => ({ part: p.id, value: t.value, time: q.time }))),
  );
  const ids = parts.map((p) => p.id);
  const open = all || tracks.length > 0;
  const shown = values.filter((v) => all || tracks.some((t) => t.value === v.value));
  const orientation = tracks.find((t) => t.value === "orientation");
  const here = tracks.filter((t) => pinAt(t, frame));
  const standing = every.filter((p) => p.time === (here[0] && pinAt(here[0], frame)!.time));
  const times = [...new Set(tracks.flatMap((t) => t.pins.map((p) => p.time)))].sort((a, b) => a - b);
  const n = shot.document.frames;
  const closing = shot.pins.find((p) => p.part === part.id);
  return (
    <Section
      title={others.length > 0 ? `Pins of ${parts.length} parts` : "Pins"}
      note={
        <span className="flex items-center gap-2">
          {here.length > 0 && <span className="text-heather">pinned on {frame}</span>}
          <button type="button" className="underline hover:text-ink" onClick={() => setAll(!all)}>
            {all ? "fewer" : "all values"}
          </button>
        </span>
      }
    >
      {!open && (
        <p className="mb-1.5 text-quiet">
          Pins are for what no move covers. P holds the part here: place, turn and size.
        </p>
      )}
      {shown.map((v) => {
        const t = tracks.find((x) => x.value === v.value);
        const now = (t && valueAt(curveOf(curves, undefined, v.value), frame)) ?? v.rest;
        const pin = pinAt(t, frame);
        const { kind, unit, one } = shownAs[v.unit]!;
        return (
          <div key={v.value} className="flex items-center gap-1.5">
            <button
              type="button"
              aria-label={pin ? `Take out the pin of ${v.label}` : `Pin ${v.label} here`}
              aria-pressed={!!pin}
              title={pin ? "Take out this pin" : "Pin it here as it is"}
              onClick={() =>
                void edit(
                  ...(pin
                    ? [{ removePins: { pins: standing.filter((p) => p.value === v.value) } }]
                    : ids.map((id) => ({ setPin: { ...ref(v.value), part: id } }))),
                )
              }
              className={`size-[11px] shrink-0 rounded-full border ${pin ? "border-heather bg-heather" : t ? "border-heather" : "border-line"}`}
            />
            <div className="min-w-0 flex-1">
              <NumberField
                label={v.label}
                value={now / one}
                kind={kind}
                unit={unit}
                digits={3}
                holds
                onChange={(x) => {
                  clock.play(0);
                  void edit(...ids.map((id) => ({ setPin: { ...ref(v.value), part: id, to: x * one } })));
                }}
              />
            </div>
          </div>
        );
      })}
      {orientation && (
        <p className="text-[11px] text-quiet">
          Its orientation follows {orientation.pins.length} pins of its file.
        </p>
      )}
      {here.length > 0 && (
        <Pick
          label="To the next pin"
          value={pinAt(here[0], frame)!.next ?? ""}
          choices={[
            { value: "smooth", name: "smooth", note: "never beyond the pins" },
            { value: "", name: "constant speed" },
            { value: "hold", name: "hold until then" },
            { value: "curve", name: "a curve of its own", note: "with handles" },
          ]}
          onChange={(next) => void edit({ setPins: { pins: standing, next } })}
        />
      )}
      {closing && !closing.closes && (
        <>
          <p className="flex items-baseline gap-1.5 text-[12px] text-coral">
            <span className="size-2 shrink-0 rounded-full bg-current" /> {closing.words}
          </p>
          <div className="my-1.5 flex flex-wrap gap-1.5">
            {closing.mends.map((m, i) => (
              <Button key={m.words} primary={i === 0} onClick={() => void edit(...m.edits)}>
                {m.words}
              </Button>
            ))}
          </div>
        </>
      )}
      {tracks.length > 0 && (
        <>
          <Pick
            label="After the last pin"
            value={tracks[0]!.after ?? ""}
            choices={[
              { value: "", name: "hold" },
              { value: "repeat", name: "repeat" },
              { value: "carry on", name: "carry on" },
              { value: "mirror", name: "mirror" },
            ]}
            onChange={(after) => void edit({ setPins: { pins: every, after } })}
          />
          <div className="mt-1.5 flex flex-wrap gap-1.5">
            <Button onClick={() => void edit({ pinPose: { parts: ids, time: frame } })} title="P">
              Pin all here
            </Button>
            <Button
              title={`The last pins take the values of the first, and stand on ${n}, where the loop begins again`}
              disabled={times.length < 2}
              onClick={() => void edit(...ids.map((part) => ({ matchEnds: { part } })))}
            >
              Match ends
            </Button>
            <Button
              disabled={times.length < 2}
              onClick={() => void edit({ setPins: { pins: every, next: "" } })}
            >
              Make constant
            </Button>
            <Button
              disabled={times.length < 2}
              onClick={() => void edit({ setPins: { pins: every, next: "smooth" } })}
            >
              Ease both
            </Button>
            <Button
              disabled={times.length < 2}
              onClick={() =>
                void edit({
                  movePins: {
                    pins: every,
                    by: 0,
                    scale: -1,
                    about: (times[0]! + times.at(-1)!) / 2,
                  },
                })
              }
            >
              Reverse
            </Button>
            <Button onClick={() => void edit({ removeTracks: { parts: ids } })}>Remove all</Button>
          </div>
        </>
      )}
    </Section>
  );
}
