import { useEffect, useRef, useState } from "react";
import type { Frame } from "../api/types.gen";

const budget = 600 * 1024 * 1024; // bytes of decoded pictures that are kept

/** Decoded pictures of a run, or of a pass of it, by frame number, loaded one after another as they become done. */
export function useFrames(run: string, done: Frame[], pass = ""): Map<number, ImageBitmap> {
  const held = useRef(new Map<string, ImageBitmap>());
  const [shown, setShown] = useState(new Map<number, ImageBitmap>());
  useEffect(() => {
    const stop = new AbortController();
    const cache = held.current;
    const key = (f: Frame) => `${run}/${f.number}/${f.sha256}/${pass}`;
    const publish = () =>
      setShown(
        new Map(done.flatMap((f) => (cache.has(key(f)) ? [[f.number, cache.get(key(f))!] as const] : []))),
      );
    const load = async () => {
      for (const f of done) {
        if (cache.has(key(f)) || stop.signal.aborted) continue;
        try {
          const r = await fetch(
            `/api/runs/${run}/frames/${f.number}.png?${f.sha256.slice(0, 12)}&pass=${encodeURIComponent(pass)}`,
            {
              signal: stop.signal,
            },
          );
          if (!r.ok) continue;
          const bitmap = await createImageBitmap(await r.blob(), {
            premultiplyAlpha: "default",
            colorSpaceConversion: "none",
          });
          cache.set(key(f), bitmap);
          const most = Math.max(2, Math.floor(budget / (bitmap.width * bitmap.height * 4)));
          for (const old of cache.keys()) {
            if (cache.size <= most) break;
            cache.get(old)!.close();
            cache.delete(old);
          }
          publish();
        } catch {
          return; // left, or the server does not answer: the next change tries again
        }
      }
    };
    publish();
    void load();
    return () => stop.abort();
  }, [run, done, pass]);
  useEffect(() => {
    const cache = held.current;
    return () => {
      for (const b of cache.values()) b.close();
      cache.clear();
    };
  }, [run]);
  return shown;
}
