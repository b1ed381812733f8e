import { useEffect, useState } from "react";
import { send } from "../api/client";
import { newId } from "../api/ids";
import type { ShotReply } from "../api/types.gen";
import { useFrame, usePlaying } from "../state/clock";
import { say } from "../state/notices";
import { useUi } from "../state/ui";

interface Shown {
  url: string;
  samples: number;
  frame: number;
}

/** The real renderer on this frame, sharpening, over the picture. It begins anew with every change. */
export function Proof({ shot, width, height }: { shot: ShotReply; width: number; height: number }) {
  const frame = useFrame();
  const playing = usePlaying();
  const [shown, setShown] = useState<Shown | null>(null);
  useEffect(() => {
    if (playing !== 0 || width < 8) return;
    const stop = new AbortController();
    let url = "";
    const ticket = newId();
    const begin = setTimeout(() => {
      read(shot.id, frame, Math.min(1280, Math.round(width)), ticket, stop.signal, (png, samples) => {
        const next = URL.createObjectURL(png);
        setShown({ url: next, samples, frame });
        if (url) URL.revokeObjectURL(url);
        url = next;
      }).catch((e: unknown) => {
        if (!stop.signal.aborted) say((e as Error).message);
      });
    }, 30);
    return () => {
      clearTimeout(begin);
      stop.abort();
      void fetch(`/api/proofs/${ticket}`, { method: "DELETE" });
      setShown(null);
      if (url) URL.revokeObjectURL(url);
    };
  }, [shot.id, shot.version, frame, playing, width]);
  const transparent = shot.document.backdrop === null;
  return (
    <div
      className={`absolute z-[5] ${shown && transparent ? "checker" : ""}`}
      style={{ width, height, left: `calc(50% - ${width / 2}px)` }}
      data-testid="proof"
      data-samples={shown?.samples}
    >
      {shown && <img src={shown.url} alt={`Proof of frame ${shown.frame}`} className="size-full" />}
      <p className="absolute right-1 bottom-1 rounded-sm bg-ground/80 px-1.5 text-[11px]" role="status">
        {playing !== 0
          ? "proof: stop to see it"
          : shown === null
            ? "proof…"
            : shown.samples === 0
              ? "proof, coarse"
              : `proof, ${shown.samples} ${shown.samples === 1 ? "sample" : "samples"}`}
      </p>
    </div>
  );
}

/** Reads a stream of pictures: samples and bytes as words, then a PNG, again and again. */
async function read(
  shot: string,
  frame: number,
  width: number,
  ticket: string,
  signal: AbortSignal,
  show: (png: Blob, samples: number) => void,
) {
  const r = await send(`/api/shots/${shot}/proof?frame=${frame}&width=${width}&ticket=${ticket}`, { signal });
  const reader = r.body!.getReader();
  let data = new Uint8Array(0);
  for (;;) {
    const { done, value } = await reader.read().catch(() => {
      throw new Error(
        "The proof broke off: the server does not answer. It begins anew with the next change.",
      );
    });
    if (done) return;
    const both = new Uint8Array(data.length + value.length);
    both.set(data);
    both.set(value, data.length);
    data = both;
    while (data.length >= 8) {
      const head = new DataView(data.buffer, data.byteOffset, 8);
      const [samples, bytes] = [head.getUint32(0, true), head.getUint32(4, true)];
      if (data.length < 8 + bytes) break;
      show(new Blob([data.slice(8, 8 + bytes)], { type: "image/png" }), samples);
      data = data.slice(8 + bytes);
    }
  }
}

/** Turns the proof on and off. */
export function ProofSwitch() {
  const on = useUi((s) => s.proof);
  return (
    <button
      type="button"
      aria-pressed={on}
      title="The real renderer on this frame, sharpening while you look (Shift L)"
      className={`ml-auto rounded-sm border px-1.5 text-[11px] ${on ? "border-verdigris bg-verdigris/25" : "border-line text-quiet hover:text-ink"}`}
      onClick={() => useUi.setState((s) => ({ proof: !s.proof }))}
    >
      proof
    </button>
  );
}
