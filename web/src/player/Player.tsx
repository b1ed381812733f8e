import { useQuery } from "@tanstack/react-query";
import { ChevronLeft, ChevronRight, Pause, Play, X } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { api } from "../api/client";
import { keys } from "../api/queries";
import type { RunReply } from "../api/types.gen";
import { Button, Pick } from "../fields/controls";
import { choose } from "../screen/files";
import { useUi } from "../state/ui";
import { useFrames } from "./frames";
import { Status } from "./Status";

const backs = [
  { value: "checker", name: "checker" },
  { value: "#000000", name: "black" },
  { value: "#ffffff", name: "white" },
  { value: "#767676", name: "mid-grey" },
  { value: "colour", name: "a colour" },
  { value: "plate", name: "a plate of yours" },
];

const notes: Partial<Record<string, string>> = {
  depth: "white at the frame's nearest, black at its farthest",
  position: "from the least to the greatest of the frame",
  motion: "grey where nothing moves",
};

const zoom = 8; // of the magnifier

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
  const [channels, setChannels] = useState("colour"); // or alpha alone, or a pass
  const [plate, setPlate] = useState<string | null>(null); // address of a picture that lies behind
  const [near, setNear] = useState<{ x: number; y: number } | null>(null); // shares of the picture that are magnified
  const [magnify, setMagnify] = useState(false);
  const [against, setAgainst] = useState(""); // another run, shown beside the wipe
  const [wipe, setWipe] = useState(0.5);
  const second = useRef<HTMLCanvasElement>(null);
  const runs = useQuery({ queryKey: keys.runs, queryFn: api.runs }).data ?? [];
  const other = useQuery({
    queryKey: keys.run(against),
    queryFn: () => api.run(against),
    enabled: against !== "",
  }).data;
  useEffect(() => () => (plate ? URL.revokeObjectURL(plate) : undefined), [plate]);
  const done = useMemo(() => run.frames.filter((f) => f.state === "done"), [run.frames]);
  const alphaAlone = channels === "alpha";
  const pass = run.settings.passes?.includes(channels) ? channels : "";
  const pictures = useFrames(run.id, done, pass);
  const otherDone = useMemo(() => other?.frames.filter((f) => f.state === "done") ?? [], [other]);
  const otherPictures = useFrames(against, otherDone);
  const count = done.length;
  const shown = Math.min(at, Math.max(0, count - 1));
  const rate = run.rate.num / run.rate.den;
  const aspect = run.settings.width / run.settings.height;
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
  const twin = number === undefined ? undefined : otherPictures.get(number);
  useEffect(() => {
    if (canvas.current && bitmap) {
      draw(canvas.current, bitmap, alphaAlone);
      canvas.current.dataset.frame = String(number);
    }
    if (second.current && twin) draw(second.current, twin, alphaAlone);
  }, [bitmap, twin, alphaAlone, number]);

  const step = (by: number) => {
    setPlaying(false);
    setAt(
      loops && run.whole
        ? (shown + by + count) % Math.max(1, count)
        : Math.min(count - 1, Math.max(0, shown + by)),
    );
  };
  const background = back === "colour" ? colour : back === "plate" ? `center / cover url(${plate})` : back;
  const look = {
    transform: magnify && near ? `scale(${zoom})` : undefined,
    transformOrigin: near ? `${near.x * 100}% ${near.y * 100}%` : undefined,
    imageRendering: magnify ? ("pixelated" as const) : undefined,
  };
  return (
    <>
      <div className="flex h-[34px] shrink-0 items-center gap-2 px-3.5">
        <span className="truncate">{run.folder.split(/[\\/]/).pop()}</span>
        <span className="truncate text-quiet">
          · {run.settings.width} × {run.settings.height} · {run.settings.quality} · {run.settings.bits} bit ·{" "}
          {(run.settings.format ?? "png").toUpperCase()} ·{" "}
          {run.settings.format === "exr"
            ? "associated alpha"
            : run.settings.backdrop
              ? "no alpha"
              : "straight alpha"}
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
      <div className="flex min-h-0 flex-1 items-center justify-center px-3.5 [container-type:size]">
        {count === 0 ? (
          <p className="text-quiet">The first frame is on its way.</p>
        ) : (
          <div
            className={`relative overflow-hidden ${background === "checker" ? "checker" : ""}`}
            style={{
              width: `min(100cqw, ${100 * aspect}cqh, ${run.settings.width}px)`,
              aspectRatio: aspect,
              background: background === "checker" ? undefined : background,
            }}
            onPointerMove={(e) => {
              if (!magnify) return;
              const r = e.currentTarget.getBoundingClientRect();
              setNear({ x: (e.clientX - r.left) / r.width, y: (e.clientY - r.top) / r.height });
            }}
          >
            <canvas
              ref={canvas}
              data-testid="player-picture"
              className="block size-full"
              style={{ ...look, clipPath: twin ? `inset(0 ${(1 - wipe) * 100}% 0 0)` : undefined }}
            />
            {twin && (
              <>
                <canvas
                  ref={second}
                  data-testid="player-second"
                  className="absolute inset-0 block size-full object-contain"
                  style={{ ...look, clipPath: `inset(0 0 0 ${wipe * 100}%)` }}
                />
                <input
                  type="range"
                  aria-label="Wipe"
                  min={0}
                  max={1}
                  step={0.001}
                  value={wipe}
                  onChange={(e) => setWipe(Number(e.target.value))}
                  className="absolute inset-x-0 bottom-1 w-full accent-verdigris"
                />
              </>
            )}
          </div>
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
        <Pick
          inline
          label="Over"
          value={back}
          choices={backs}
          onChange={(v) => {
            if (v !== "plate") return setBack(v);
            choose("image/*", false, ([file]) => {
              if (!file) return;
              setPlate(URL.createObjectURL(file));
              setBack("plate");
            });
          }}
        />
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
          value={channels}
          choices={[
            { value: "colour", name: "colour" },
            { value: "alpha", name: "alpha alone" },
            ...(run.settings.passes ?? []).map((p) => ({ value: p, name: p, note: notes[p] })),
          ]}
          onChange={setChannels}
        />
        <button
          type="button"
          aria-pressed={magnify}
          title={`Magnify what is under the pointer ${zoom} times, to look at edges`}
          className={`rounded-sm border px-1.5 py-0.5 ${magnify ? "border-verdigris bg-verdigris/25" : "border-line text-quiet hover:text-ink"}`}
          onClick={() => setMagnify(!magnify)}
        >
          edges
        </button>
        {runs.length > 1 && (
          <Pick
            inline
            label="Wiped against"
            value={against}
            choices={[
              { value: "", name: "alone" },
              ...runs
                .filter((r) => r.id !== run.id && r.progress.done > 0)
                .slice(0, 30)
                .map((r) => ({ value: r.id, name: "against " + r.folder.split(/[\\/ ]/).pop() })),
            ]}
            onChange={setAgainst}
          />
        )}
      </div>
      <Status run={run} />
    </>
  );
}

/** Puts a picture on a canvas, or its alpha alone. */
function draw(c: HTMLCanvasElement, bitmap: ImageBitmap, alphaAlone: boolean) {
  c.width = bitmap.width;
  c.height = bitmap.height;
  const g = c.getContext("2d")!;
  g.drawImage(bitmap, 0, 0);
  if (!alphaAlone) return;
  const d = g.getImageData(0, 0, c.width, c.height);
  for (let i = 0; i < d.data.length; i += 4) {
    const a = d.data[i + 3]!;
    d.data[i] = d.data[i + 1] = d.data[i + 2] = a;
    d.data[i + 3] = 255;
  }
  g.putImageData(d, 0, 0);
}
