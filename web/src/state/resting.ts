import { useEffect, useState } from "react";
import { clock } from "./clock";

/** The frame that the playhead has come to rest on: for what is rendered anew for each. It stays while the shot plays. */
export function useRestingFrame(): number {
  const [frame, setFrame] = useState(clock.frame);
  useEffect(() => {
    let wait: ReturnType<typeof setTimeout> | undefined;
    const moved = () => {
      clearTimeout(wait);
      if (clock.playing === 0) wait = setTimeout(() => setFrame(clock.frame), 400);
    };
    const end = clock.subscribe(moved);
    moved();
    return () => {
      clearTimeout(wait);
      end();
    };
  }, []);
  return frame;
}
