import { useQuery } from "@tanstack/react-query";
import { ChevronLeft, ChevronRight, Download, Pause, Play, X } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { api } from "../api/client";
import { keys } from "../api/queries";
import type { RunReply } from "../api/types.gen";
import { Button, Pick } from "../fields/controls";
import { duration } from "../sheets/RenderSheet";
import { say } from "../state/notices";
import { useUi } from "../state/ui";
import { useFrames } from "./frames";

const backs = [
  { value: "checker", name: "checker" },
  { value: "#000000", name: "black" },
  { value: "#ffffff", name: "white" },
  { value: "#767676", name: "mid-grey" },
  { value: "colour", name: "a colour" },
];

/** A run: what is being rendered while it runs, and the loop of what is there. */
export function Player({ id }: { id: string }) {
  const run = useQuery({ queryKey: keys.run(id), queryFn: () => api.run(id) }).data;
  return (
    <div className="flex min-w-0 flex-1 flex-col bg-surround" data-testid="player">
      {run ? <Loaded run={run} /> : <p className="m-auto text-quiet">Opening the run…</p>}
    </div>
  );
}

function Loaded({ run }: { run: RunReply }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [playing, setPlaying] = useState(true);
  const [at, setAt] = useState(0); // place in the list of frames that are done
  const [back, setBack] = useState("checker");
  const [colour, setColour] = useState("#e8e4da");
  const [alphaAlone, setAlphaAlone] = useState(false);
  const done = useMemo(() => run.frames.filter((f) => f.state === "done"), [run.frames]);
  const pictures = useFrames(run.id, done);
  const count = done.length;
  const shown = Math.min(at, Math.max(0, count - 1));
  const rate = run.rate.num / run.rate.den;
  const loops = run.ending === "loop";

  useEffect(() => {
    if (!playing || count < 2) return;
    const from = shown;
    const since = performance.now();
    let live = true;
    const tick = (now: number) => {
      if (!live) return;
      setAt((from + Math.floor((Math.max(0, now - since) * rate) / 1000)) % count);
      requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
    return () => {
      live = false;
    };
  }, [playing, count, rate]); // eslint-disable-line react-hooks/exhaustive-deps

  const number = done[shown]?.number;
  const bitmap = number === undefined ? undefined : pictures.get(number);
  useEffect(() => {
    const c = canvas.current;
    if (!c || !bitmap) return;
    c.width = bitmap.width;
    c.height = bitmap.height;
    const g = c.getContext("2d")!;
    g.drawImage(bitmap, 0, 0);
    if (alphaAlone) {
      const d = g.getImageData(0, 0, c.width, c.height);
      for (let i = 0; i < d.data.length; i += 4) {
        const a = d.data[i + 3]!;
        d.data[i] = d.data[i + 1] = d.data[i + 2] = a;
        d.data[i + 3] = 255;
      }
      g.putImageData(d, 0, 0);
    }
    c.dataset.frame = String(number);
  }, [bitmap, alphaAlone, number]);

  const step = (by: number) => {
    setPlaying(false);
    setAt(
      loops && run.whole
        ? (shown + by + count) % Math.max(1, count)
        : Math.min(count - 1, Math.max(0, shown + by)),
    );
  };
  const background = back === "colour" ? colour : back;
  return (
    <>
      <div className="flex h-[34px] shrink-0 items-center gap-2 px-3.5">
        <span className="truncate">{run.folder.split(/[\\/]/).pop()}</span>
        <span className="truncate text-quiet">
          · {run.settings.width} × {run.settings.height} · {run.settings.quality} · {run.settings.bits} bit ·{" "}
          {run.settings.backdrop ? "no alpha" : "straight alpha"}
        </span>
        <span className="flex-1" />
        <button
          type="button"
          aria-label="Back to the views"
          title="Back to the views"
          className="p-1 text-quiet hover:text-ink"
          onClick={() => useUi.setState({ player: null })}
        >
          <X size={15} />
        </button>
      </div>
      <div className="flex min-h-0 flex-1 items-center justify-center px-3.5">
        {count === 0 ? (
          <p className="text-quiet">The first frame is on its way.</p>
        ) : (
          <canvas
            ref={canvas}
            data-testid="player-picture"
            className={`max-h-full max-w-full object-contain ${background === "checker" ? "checker" : ""}`}
            style={background === "checker" ? undefined : { background }}
          />
        )}
      </div>
      <div className="flex h-[40px] shrink-0 items-center gap-2 px-3.5">
        <Button label="One frame back" onClick={() => step(-1)} disabled={count < 2}>
          <ChevronLeft size={14} />
        </Button>
        <Button label={playing ? "Stop" : "Play"} onClick={() => setPlaying(!playing)} disabled={count < 2}>
          {playing ? <Pause size={13} /> : <Play size={13} />}
        </Button>
        <Button label="One frame on" onClick={() => step(1)} disabled={count < 2}>
          <ChevronRight size={14} />
        </Button>
        <input
          type="range"
          aria-label="Frame"
          min={0}
          max={Math.max(0, count - 1)}
          value={shown}
          onChange={(e) => {
            setPlaying(false);
            setAt(Number(e.target.value));
          }}
          className="min-w-16 flex-1 accent-verdigris"
        />
        <span className="w-[86px] text-right font-mono text-[12px] whitespace-nowrap">
          f {number ?? "–"} <span className="text-quiet">of {run.progress.of}</span>
        </span>
        <span className="text-quiet">over</span>
        <Pick inline label="Over" value={back} choices={backs} onChange={setBack} />
        {back === "colour" && (
          <input
            type="color"
            aria-label="Colour behind"
            value={colour}
            onChange={(e) => setColour(e.target.value)}
            className="h-[22px] w-[28px] cursor-pointer bg-transparent"
          />
        )}
        <Pick
          inline
          label="Channels"
          value={alphaAlone}
          choices={[
            { value: false, name: "colour" },
            { value: true, name: "alpha alone" },
          ]}
          onChange={setAlphaAlone}
        />
      </div>
      <Status run={run} />
    </>
  );
}

function Status({ run }: { run: RunReply }) {
  const p = run.progress;
  const set = async (state: "paused" | "cancelled" | "waiting") => {
    try {
      await api.setRun(run.id, state);
    } catch (e) {
      say((e as Error).message);
    }
  };
  const share = (p.done + p.share) / Math.max(1, p.of);
  const left = p.perFrame > 0 ? (p.of - p.done - p.share) * p.perFrame : 0;
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
              {p.state === "running" && left > 0 && ` · ${duration(left)} left`}
              {" · "}
              <span title={run.folder}>{run.folder}</span>
            </>
          )}
        </p>
      </div>
      {p.state === "running" && <Button onClick={() => void set("paused")}>Pause</Button>}
      {(p.state === "running" || p.state === "waiting" || p.state === "paused") && (
        <Button onClick={() => void set("cancelled")}>Cancel</Button>
      )}
      {(p.state === "paused" || p.state === "cancelled" || p.state === "failed") && (
        <Button primary onClick={() => void set("waiting")}>
          Go on
        </Button>
      )}
      {p.done > 0 && (
        <a
          href={`/api/runs/${run.id}/frames.zip`}
          download
          className={`inline-flex h-[26px] items-center gap-1.5 rounded-md border px-2.5 font-medium whitespace-nowrap ${
            p.state === "done"
              ? "border-verdigris bg-verdigris text-on-verdigris"
              : "border-line hover:bg-raised"
          }`}
        >
          <Download size={13} /> Download zip
        </a>
      )}
    </div>
  );
}
