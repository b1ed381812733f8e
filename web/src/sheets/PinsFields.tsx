import { useState } from "react";
import { useEdits } from "../api/queries";
import type { Part, ShotReply, Track } from "../api/types.gen";
import { Button, Pick } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { clock, useFrame } from "../state/clock";
import { asCurve, pinAt, pinned, sample, unpinned, values } from "../score/tracks";
import { Section } from "./Sheet";

/** What pins say of a part at the playhead; changing a value places a pin there. */
export function PinsFields({ shot, part }: { shot: ShotReply; part: Part }) {
  const { edit } = useEdits();
  const frame = useFrame();
  const [all, setAll] = useState(false);
  const tracks = part.tracks ?? [];
  const put = (t: Track[]) => void edit({ setTracks: { part: part.id, tracks: t } });
  const set = (value: string, v: number) => {
    clock.play(0);
    put(pinned(part, value, frame, { value: v }));
  };
  const every = () => {
    let p = part;
    for (const v of values) {
      const t = tracks.find((x) => x.value === v.value);
      if (t ?? ["x", "y", "z"].includes(v.value))
        p = { ...p, tracks: pinned(p, v.value, frame, { value: t ? sample(t, frame) : v.rest }) };
    }
    put(p.tracks!);
  };
  const open = all || tracks.length > 0;
  const shown = values.filter((v) => all || tracks.some((t) => t.value === v.value));
  const orientation = tracks.find((t) => t.value === "orientation");
  const here = tracks.filter((t) => pinAt(t, frame));
  const times = [...new Set(tracks.flatMap((t) => t.pins.map((p) => p.time)))].sort((a, b) => a - b);
  const n = shot.document.frames;
  const alter = (f: (t: Track) => Track) => put(structuredClone(tracks).map(f));
  return (
    <Section
      title="Pins"
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
        <p className="mb-1.5 text-quiet">Keys for what no move covers. P pins the place where it is.</p>
      )}
      {shown.map((v) => {
        const t = tracks.find((x) => x.value === v.value);
        const now = t ? sample(t, frame) : v.rest;
        const pin = pinAt(t, frame);
        const k = v.kind === "angle" ? 2 * Math.PI : v.kind === "percent" ? 0.01 : 1;
        return (
          <div key={v.value} className="flex items-center gap-1.5">
            <button
              type="button"
              aria-label={pin ? `Take out the pin of ${v.label}` : `Pin ${v.label} here`}
              aria-pressed={!!pin}
              title={pin ? "Take out this pin" : "Pin it here as it is"}
              onClick={() =>
                put(pin ? unpinned(part, v.value, frame) : pinned(part, v.value, frame, { value: now }))
              }
              className={`size-[11px] shrink-0 rounded-full border ${pin ? "border-heather bg-heather" : t ? "border-heather" : "border-line"}`}
            />
            <div className="min-w-0 flex-1">
              <NumberField
                label={v.label}
                value={now / k}
                kind={v.kind}
                unit={{ length: "mm", angle: "°", percent: "%" }[v.kind]}
                digits={3}
                onChange={(x) => set(v.value, x * k)}
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
          onChange={(next) =>
            next === "curve"
              ? put(
                  here
                    .filter((t) => t.value !== "orientation")
                    .reduce((list, t) => asCurve(list, t.value, frame), tracks),
                )
              : alter((t) => ({
                  ...t,
                  pins: t.pins.map((p) => (pinAt(t, frame) === p ? { ...p, next: next || undefined } : p)),
                }))
          }
        />
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
            onChange={(after) => alter((t) => ({ ...t, after: after || undefined }))}
          />
          <div className="mt-1.5 flex flex-wrap gap-1.5">
            <Button onClick={every} title="P">
              Pin all here
            </Button>
            <Button
              title={`The last pins take the values of the first, and stand on ${n}, where the loop begins again`}
              disabled={times.length < 2}
              onClick={() =>
                alter((t) => {
                  const first = t.pins[0]!;
                  const rest = t.pins.filter((p) => p.time < n - 1e-6);
                  return {
                    ...t,
                    pins: [...rest, { ...structuredClone(first), time: Math.max(n, first.time + n) }],
                  };
                })
              }
            >
              Match ends
            </Button>
            <Button
              disabled={times.length < 2}
              onClick={() => alter((t) => ({ ...t, pins: t.pins.map((p) => ({ ...p, next: undefined })) }))}
            >
              Make constant
            </Button>
            <Button
              disabled={times.length < 2}
              onClick={() =>
                alter((t) => ({
                  ...t,
                  pins: t.pins.map((p) => (t.value === "orientation" ? p : { ...p, next: "smooth" })),
                }))
              }
            >
              Ease both
            </Button>
            <Button
              disabled={times.length < 2}
              onClick={() =>
                void edit({
                  movePins: {
                    pins: tracks.flatMap((t) =>
                      t.pins.map((p) => ({ part: part.id, value: t.value, time: p.time })),
                    ),
                    by: 0,
                    scale: -1,
                    about: (times[0]! + times.at(-1)!) / 2,
                  },
                })
              }
            >
              Reverse
            </Button>
            <Button onClick={() => put([])}>Remove all</Button>
          </div>
        </>
      )}
    </Section>
  );
}

/** Pins the places of the selected part where they are, for the key P. */
export function pinHere(part: Part, frame: number): Track[] {
  let p = part;
  const has = part.tracks ?? [];
  for (const v of values) {
    const t = has.find((x) => x.value === v.value);
    if (t ?? (has.length === 0 && ["x", "y", "z"].includes(v.value)))
      p = { ...p, tracks: pinned(p, v.value, frame, { value: t ? sample(t, frame) : v.rest }) };
  }
  return p.tracks ?? [];
}

/** Pins the whole pose: place and turns, and sizes where they have pins. */
export function poseHere(part: Part, frame: number): Track[] {
  let p = part;
  for (const v of values) {
    const t = (part.tracks ?? []).find((x) => x.value === v.value);
    if (t ?? v.kind !== "percent")
      p = { ...p, tracks: pinned(p, v.value, frame, { value: t ? sample(t, frame) : v.rest }) };
  }
  return p.tracks ?? [];
}
