import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { Download } from "lucide-react";
import { useState } from "react";
import { api, send } from "../api/client";
import type { RunReply } from "../api/types.gen";
import { Button, itemClass, listClass } from "../fields/controls";
import { duration } from "../fields/duration";
import { NumberField } from "../fields/NumberField";
import { say } from "../state/notices";

/** How a run is getting on, what can be done with it, and its files. */
export function Status({ run }: { run: RunReply }) {
  const p = run.progress;
  const set = async (state: "paused" | "cancelled" | "waiting") => {
    try {
      await api.setRun(run.id, state);
    } catch (e) {
      say((e as Error).message);
    }
  };
  const share = (p.done + p.share) / Math.max(1, p.of);
  const left = p.left;
  const several = p.drawing?.length ?? 0;
  return (
    <div
      className="flex h-[46px] shrink-0 items-center gap-3 border-t border-line bg-panel px-3.5"
      role="status"
    >
      <div className="min-w-0 flex-1">
        <div className="h-1.5 overflow-hidden rounded-full bg-ground">
          <div
            className={`h-full ${p.state === "done" ? "bg-fern" : p.state === "failed" ? "bg-coral" : "bg-verdigris"}`}
            style={{ width: `${share * 100}%` }}
          />
        </div>
        <p className="mt-1 truncate text-[11px] text-quiet" data-testid="run-state">
          {p.state === "failed" ? (
            <span className="text-coral">Failed: {p.message}</span>
          ) : (
            <>
              {p.state}, {p.done} of {p.of} frames
              {p.perFrame > 0 && ` · ${p.perFrame.toFixed(1)} s each`}
              {p.state === "running" &&
                p.compared > 0 &&
                ` · compares the shot's frames with each other, ${Math.round(p.compared * 100)} %`}
              {p.state === "running" && several > 1 && ` · ${several} given out`}
              {p.state === "running" && left > 0 && ` · ${duration(left)} left`}
              {run.settings.deliver && (
                <span className={p.trouble ? "text-coral" : ""}>
                  {` · ${p.delivered} delivered`}
                  {p.trouble && `, waits: ${p.trouble}`}
                </span>
              )}
              {" · "}
              <span title={run.folder}>{run.folder}</span>
            </>
          )}
        </p>
      </div>
      {p.state === "running" && <Button onClick={() => void set("paused")}>Pause</Button>}
      {p.state === "waiting" && (
        <Button
          title="Before all other runs: one that is being rendered ends its frame, and waits"
          onClick={() => void api.firstRun(run.id).catch((e: unknown) => say((e as Error).message))}
        >
          Go first
        </Button>
      )}
      {(p.state === "running" || p.state === "waiting" || p.state === "paused") && (
        <Button onClick={() => void set("cancelled")}>Cancel</Button>
      )}
      {(p.state === "paused" || p.state === "cancelled" || p.state === "failed") && (
        <Button primary onClick={() => void set("waiting")}>
          Go on
        </Button>
      )}
      {p.done > 0 && p.state !== "running" && p.state !== "waiting" && <Redo run={run} />}
      {p.done > 0 && p.state !== "running" && (
        <Menu>
          <MenuButton className="inline-flex h-[26px] items-center rounded-md border border-line px-2.5 font-medium hover:bg-raised">
            As one file
          </MenuButton>
          <MenuItems anchor="top end" className={listClass}>
            {reviews.map((r) => (
              <MenuItem key={r.kind}>
                <button
                  type="button"
                  className={itemClass + " w-full"}
                  onClick={() => void review(run.id, r.kind)}
                >
                  {r.name} <span className="ml-auto pl-4 text-[11px] text-quiet">{r.note}</span>
                </button>
              </MenuItem>
            ))}
          </MenuItems>
        </Menu>
      )}
      {p.done > 0 && (
        <a
          href={`/api/runs/${run.id}/frames.zip?some=1`}
          download
          onClick={(e) => {
            // Whether all of it is there is asked before anything comes down.
            e.preventDefault();
            const href = e.currentTarget.href;
            void api.zippable(run.id).then(
              () => (location.href = href),
              (why: unknown) => say((why as Error).message),
            );
          }}
          className={`inline-flex h-[26px] items-center gap-1.5 rounded-md border px-2.5 font-medium whitespace-nowrap ${
            p.state === "done"
              ? "border-verdigris bg-verdigris text-on-verdigris"
              : "border-line hover:bg-raised"
          }`}
        >
          <Download size={13} /> {p.done < p.of ? `Zip of ${p.done} of ${p.of} frames` : "Download zip"}
        </a>
      )}
    </div>
  );
}

const reviews = [
  { kind: "apng", name: "APNG", note: "loops, with alpha" },
  { kind: "webm", name: "WebM", note: "VP9 with alpha, by ffmpeg" },
  { kind: "mp4", name: "MP4", note: "no alpha, by ffmpeg" },
  { kind: "contact", name: "Contact sheet", note: "small pictures" },
  { kind: "sprites", name: "Sprite sheet", note: "at full size" },
  { kind: "map", name: "Its map", note: "JSON" },
];

/** Gets a run as one file, or says why it cannot be had. */
async function review(run: string, kind: string) {
  try {
    const r = await send(`/api/runs/${run}/review/${kind}`);
    const a = document.createElement("a");
    a.href = URL.createObjectURL(await r.blob());
    a.download = /filename="([^"]+)"/.exec(r.headers.get("Content-Disposition") ?? "")?.[1] ?? "run." + kind;
    a.click();
    setTimeout(() => URL.revokeObjectURL(a.href), 10_000);
  } catch (e) {
    say((e as Error).message);
  }
}

/** Checks the files of a run, repairs them, and renders frames again. */
function Redo({ run }: { run: RunReply }) {
  const [bad, setBad] = useState<number[] | null>(null);
  const [from, setFrom] = useState(run.settings.from);
  const [to, setTo] = useState(run.settings.from);
  const attempt = async (f: () => Promise<unknown>) => {
    try {
      await f();
      setBad(null);
    } catch (e) {
      say((e as Error).message);
    }
  };
  const field = (label: string, value: number, set: (v: number) => void) => (
    <NumberField
      inline
      label={label}
      value={value}
      kind="time"
      unit="f"
      digits={0}
      whole
      min={run.settings.from}
      max={run.settings.to}
      onChange={(v) => set(Math.round(v))}
    />
  );
  return (
    <>
      <span className="text-[11px] whitespace-nowrap text-quiet">
        {field("Again from", from, (v) => {
          setFrom(v);
          if (v > to) setTo(v);
        })}{" "}
        to {field("Again to", Math.max(from, to), setTo)}
      </span>
      <Button
        title="Render these frames again"
        onClick={() => void attempt(() => api.redoRun(run.id, from, Math.max(from, to)))}
      >
        Again
      </Button>
      {bad === null ? (
        <Button
          title="Look whether every file is there and is what was written"
          onClick={() => void api.verifyRun(run.id).then(setBad, (e: unknown) => say((e as Error).message))}
        >
          Verify
        </Button>
      ) : bad.length === 0 ? (
        <span className="text-[11px] text-fern">all files as written</span>
      ) : (
        <Button
          primary
          title={`Frames ${bad.join(", ")} are missing or damaged`}
          onClick={() => void attempt(() => api.setRun(run.id, "waiting"))}
        >
          Repair {bad.length}
        </Button>
      )}
    </>
  );
}
