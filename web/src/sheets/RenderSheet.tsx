import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import { useKinds } from "../api/kinds";
import {
  client,
  keys,
  rehearsedWhole,
  useFindings,
  useRehearsal,
  useServerState,
  renew,
} from "../api/queries";
import type { RunReply, Settings, ShotReply } from "../api/types.gen";
import { Button, ColorField, Pick, TextField, Toggle } from "../fields/controls";
import { duration } from "../fields/duration";
import { NumberField } from "../fields/NumberField";
import { say } from "../state/notices";
import { clock, useFrame } from "../state/clock";
import { useOutput, useSettings } from "../state/settings";
import { goTo, useUi } from "../state/ui";
import { RunRow } from "./RunRow";
import { Section } from "./Section";
import { TestFrame } from "./TestFrame";
import { namedFor, runsOf, Together, useTogether } from "./Together";

/** A run that takes longer than so many seconds is rehearsed first. */
const longRun = 600;

export function RenderSheet({ shot }: { shot: ShotReply }) {
  const [own, set] = useSettings(shot);
  const [together, setTogether] = useTogether(shot);
  const count = runsOf(together);
  const s = { ...own, name: namedFor(own.name, together) };
  const names = useOutput(shot, s);
  const refused = names?.findings.find((f) => f.weight === "blocks");
  const drive = useServerState().data?.drive;
  const runs = useQuery({ queryKey: keys.runs, queryFn: api.runs }).data ?? [];
  const like = [
    s.width,
    s.quality,
    s.noise,
    s.denoise,
    s.neighbours,
    s.passes?.length,
    shot.id,
    shot.version,
  ].join(); // what a frame's time depends on
  const [timed, setTimed] = useState<{ like: string; seconds: number } | null>(null); // the last test frame
  const each = timed?.like === like ? timed.seconds : null;
  const speed = useQuery({ queryKey: keys.workers, queryFn: api.workers }).data?.speed ?? 1; // of all that render
  const whole = each === null ? null : (each * (s.to - s.from + 1)) / Math.max(0.01, speed); // seconds
  const found = useFindings(shot);
  const blocking = found.list.filter((f) => f.weight === "blocks");
  const rehearsal = useRehearsal(shot.id);
  const rehearsed = rehearsal?.version === shot.version ? rehearsal : undefined;
  const long = whole !== null && whole * count > longRun;
  const [first, setFirst] = useState(false); // it is rehearsed before it starts
  const full = shot.document.format;
  const kinds = useKinds();
  const { qualities, files, passes } = kinds ?? { qualities: [], files: [], passes: [] };
  const quality = qualities.find((q) => q.quality === s.quality);
  const format = files.find((f) => f.format === (s.format ?? "png"));
  const start = async (only: Partial<Settings> = {}) => {
    try {
      const r = await api.startRun(shot.id, { ...s, ...only }, together);
      if (count > 1) void renew(keys.runs);
      else client.setQueryData<RunReply[]>(keys.runs, (list) => [r, ...(list ?? [])]);
      client.setQueryData(keys.run(r.id), r);
      useUi.setState({ player: r.id });
    } catch (e) {
      say((e as Error).message);
    }
  };
  const startLong = async () => {
    setFirst(true);
    try {
      const r = await rehearsedWhole(shot.id);
      if (r.state === "done" && r.findings.length === 0) await start();
    } catch (e) {
      say((e as Error).message);
    } finally {
      setFirst(false);
    }
  };
  return (
    <>
      <Section title="Output" note={format && `${format.name} sequence`}>
        <Pick
          label="Size"
          value={s.width}
          choices={[0.25, 0.5, 1, 2]
            .map((k) => ({
              value: Math.round(full.width * k),
              name: `${Math.round(full.width * k)} × ${Math.round(full.height * k)}`,
              note: `${k * 100} %`,
            }))
            .concat(
              [0.25, 0.5, 1, 2].some((k) => Math.round(full.width * k) === s.width)
                ? []
                : [{ value: s.width, name: `${s.width} × ${s.height}`, note: "" }],
            )}
          onChange={(width) => set({ width: width === full.width ? undefined : width })}
        />
        <NumberField
          label="Width"
          value={s.width}
          kind="number"
          digits={0}
          whole
          min={1}
          max={16384}
          onChange={(width) => set({ width: Math.round(width) })}
        />
        <NumberField
          label="From frame"
          value={s.from}
          kind="time"
          unit="f"
          digits={0}
          whole
          min={0}
          max={s.to}
          onChange={(from) => set({ from: Math.round(from) })}
        />
        <NumberField
          label="To frame"
          value={s.to}
          kind="time"
          unit="f"
          digits={0}
          whole
          min={s.from}
          max={shot.document.frames - 1}
          onChange={(to) =>
            set({ to: Math.round(to) === shot.document.frames - 1 ? undefined : Math.round(to) })
          }
        />
        <NumberField
          label="First number"
          value={s.first}
          kind="number"
          digits={0}
          whole
          min={0}
          max={1e9}
          onChange={(first) => set({ first: Math.round(first) })}
        />
        <Pick
          label="Quality"
          value={s.quality}
          choices={qualities.map((q) => ({ value: q.quality, name: q.quality, note: q.note }))}
          onChange={(to) => {
            const q = qualities.find((q) => q.quality === to);
            set({ quality: to, denoise: q?.denoised, neighbours: q?.neighbours });
          }}
        />
        {quality && quality.noise > 0 && (
          <NumberField
            label="Noise let pass"
            value={(s.noise ?? quality.noise) * 100}
            kind="percent"
            unit="%"
            digits={2}
            min={0.05}
            max={20}
            onChange={(v) => set({ noise: v / 100 })}
          />
        )}
        <Toggle label="Denoise" on={s.denoise === true} onChange={(denoise) => set({ denoise })} />
        {s.denoise && s.to > s.from && (
          <Toggle
            label="With the frames beside"
            title="Each frame takes light from the one before and the one after, across the seam of a loop too, where they show the same: fewer samples for as little noise, and a steadier sequence. A still is denoised by itself"
            on={s.neighbours === true}
            onChange={(neighbours) => set({ neighbours })}
          />
        )}
        {drive && (
          <Toggle
            label="Deliver"
            title={`Each frame goes to ${drive} too as it is done: read back and compared before it has its name there, and tried again where the drive is full or away`}
            on={s.deliver === true}
            onChange={(deliver) => set({ deliver })}
          />
        )}
        <Pick
          label="Format"
          value={s.format ?? "png"}
          choices={files.map((f) => ({ value: f.format, name: f.name, note: f.note }))}
          onChange={(value) => {
            const next = files.find((f) => f.format === value)!;
            set({
              format: value,
              bits: next.bits.includes(s.bits) ? s.bits : next.bits[0],
              passes: next.passes ? s.passes : undefined,
              ...(!next.alpha && s.backdrop === null && !shot.document.environment.seen
                ? { backdrop: shot.document.backdrop ?? [0.93, 0.92, 0.9] }
                : {}),
            });
          }}
        />
        <Pick
          label="Depth"
          value={s.bits}
          choices={(format?.bits ?? []).map((value) => ({
            value,
            name: !format!.float ? `${value} bit` : value === 16 ? "half, 16 bit" : "float, 32 bit",
          }))}
          onChange={(bits) => set({ bits })}
        />
        {format?.passes && (
          <>
            <Pick
              label="Packed with"
              value={s.compression ?? "ZIP"}
              choices={[
                { value: "ZIP", name: "ZIP", note: "16 lines together" },
                { value: "ZIPS", name: "ZIPS", note: "line by line" },
                { value: "PIZ", name: "PIZ", note: "smaller where there is noise" },
                { value: "none", name: "nothing" },
              ]}
              onChange={(compression) => set({ compression })}
            />
            <Toggle label="Tight data window" on={s.tight === true} onChange={(tight) => set({ tight })} />
            <p className="mt-1 text-quiet">
              Passes{" "}
              <button
                type="button"
                className="float-right underline hover:text-ink"
                onClick={() => set({ passes: s.passes?.length ? [] : passes })}
              >
                {s.passes?.length ? "none" : "all"}
              </button>
            </p>
            <div className="my-1 flex flex-wrap gap-1" role="group" aria-label="Passes">
              {passes.map((p) => {
                const on = s.passes?.includes(p) ?? false;
                return (
                  <button
                    key={p}
                    type="button"
                    aria-pressed={on}
                    className={`rounded-sm border px-1.5 py-0.5 text-[11px] ${on ? "border-verdigris bg-verdigris/25 text-ink" : "border-line text-quiet hover:text-ink"}`}
                    onClick={() =>
                      set({ passes: passes.filter((q) => (q === p ? !on : s.passes?.includes(q))) })
                    }
                  >
                    {p}
                  </button>
                );
              })}
            </div>
          </>
        )}
        {format?.passes && (s.passes?.length ?? 0) > 0 && (
          <Toggle
            label="A file for each pass"
            on={s.passFiles === true}
            onChange={(passFiles) => set({ passFiles })}
          />
        )}
        <Toggle
          label={format?.float ? "Alpha (associated)" : "Alpha (straight)"}
          on={s.backdrop === null}
          onChange={(on) =>
            set({
              backdrop: on ? null : (shot.document.backdrop ?? [0.93, 0.92, 0.9]),
              backdropLow: on ? undefined : shot.document.backdropLow,
            })
          }
        />
        {s.backdrop && (
          <ColorField label="Backdrop" value={s.backdrop} onChange={(backdrop) => set({ backdrop })} />
        )}
        {s.backdrop && s.backdropLow && (
          <ColorField
            label="At the lower edge"
            value={s.backdropLow}
            onChange={(backdropLow) => set({ backdropLow })}
          />
        )}
        <TextField label="Name" mono value={own.name} onChange={(name) => set({ name })} />
        <NumberField
          label="Digits of the number"
          value={s.padding}
          kind="number"
          digits={0}
          whole
          min={1}
          max={12}
          onChange={(padding) => set({ padding: Math.round(padding) })}
        />
        {names?.findings
          .filter((f) => f !== refused)
          .map((f) => (
            <p key={f.title} className="mt-1 text-[11px] text-brass">
              {f.title}: {f.why}
            </p>
          ))}
        <p className="mt-1 font-mono text-[11px] leading-relaxed text-quiet" data-testid="names">
          {refused ? (
            <span className="font-sans text-coral">{refused.why}</span>
          ) : (
            names && (
              <>
                {names.first}
                <br />
                {names.last}{" "}
                <span className="font-sans">
                  · {names.frames} {names.frames === 1 ? "frame" : "frames"}
                </span>
              </>
            )
          )}
        </p>
      </Section>
      <TestFrame
        shot={shot}
        settings={s}
        timed={(seconds) => setTimed({ like, seconds })}
        bad={!names || refused !== undefined}
      />
      <Section
        title="Run"
        note={
          whole !== null
            ? `about ${duration(whole)} for ${s.to - s.from + 1} frames`
            : "a test frame tells how long it takes"
        }
      >
        <Together shot={shot} value={together} onChange={setTogether} />
        {blocking.length > 0 && (
          <p className="mb-2 text-coral">
            {blocking.map((f) => f.title).join("; ")}.{" "}
            <button type="button" className="underline" onClick={() => goTo("Check")}>
              Look in Check
            </button>
          </p>
        )}
        {found.looking && (
          <p className="mb-2 text-quiet">
            The shot is still being looked at: more may be found than is known here.
          </p>
        )}
        {first && (
          <p className="mb-2 text-quiet" role="status">
            It takes more than ten minutes, and is rehearsed first
            {rehearsed ? `: ${rehearsed.done} of ${rehearsed.frames.length || "…"}` : "…"}{" "}
            <button
              type="button"
              className="underline"
              onClick={() => {
                void api.stopRehearsal(shot.id); // a rehearsal that was stopped starts nothing
                void start();
              }}
            >
              Start at once
            </button>
          </p>
        )}
        {!first && rehearsed?.state === "done" && rehearsed.findings.length > 0 && (
          <p className="mb-2 text-coral">
            The rehearsal found: {rehearsed.findings.map((f) => f.title).join("; ")}.
          </p>
        )}
        <Button
          primary={blocking.length === 0}
          disabled={!names || refused !== undefined || first}
          onClick={() => void (long && rehearsed?.state !== "done" ? startLong() : start())}
        >
          {blocking.length ? "Render all the same" : "Render"}
          {count > 1 && ` ${count} runs`}
        </Button>{" "}
        <Still
          count={count}
          disabled={!names || refused !== undefined}
          onClick={() => void start({ from: clock.frame, to: clock.frame })}
        />
      </Section>
      <Section title="Runs" note={runs.length || undefined}>
        <Machines />
        {runs.length === 0 && <p className="text-quiet">Runs are listed here, with what they rendered.</p>}
        <ul>
          {runs.map((r) => (
            <RunRow key={r.id} run={r} />
          ))}
        </ul>
      </Section>
    </>
  );
}

/** Which machines render, and the way to their page. */
function Machines() {
  const all = useQuery({ queryKey: keys.workers, queryFn: api.workers }).data;
  const n = all?.working ?? 1;
  return (
    <p className="mb-1 flex items-center gap-2 text-[11px] text-quiet">
      <span className="flex-1">
        {!all?.open && "This machine renders"}
        {all?.open &&
          (n === 0 ? "No machine renders" : n === 1 ? "1 machine renders" : `${n} machines render`)}
      </span>
      <button type="button" className="underline" onClick={() => useUi.setState({ dialog: "workers" })}>
        Workers…
      </button>
    </p>
  );
}

/** Renders the frame at the playhead alone. By itself, since it changes with every picture. */
function Still({ count, disabled, onClick }: { count: number; disabled: boolean; onClick: () => void }) {
  const frame = useFrame();
  return (
    <Button
      disabled={disabled}
      title="The frame at the playhead alone, as it is rendered with these settings"
      onClick={onClick}
    >
      {count > 1 ? `${count} stills` : "A still"} of frame {frame}
    </Button>
  );
}
