import { Circle, Pause, Play } from "lucide-react";
import { useEffect, useState } from "react";
import type { ShotReply } from "../api/types.gen";
import { clock, usePlaying } from "../state/clock";
import { useUi } from "../state/ui";

/** Play and stop, the rate that is reached, and recording. */
export function Transport({ shot }: { shot: ShotReply }) {
  const playing = usePlaying();
  const rate = shot.document.rate.num / shot.document.rate.den;
  const [reached, setReached] = useState(0);
  useEffect(() => {
    const t = setInterval(() => setReached(clock.playing ? clock.reached : 0), 500);
    return () => clearInterval(t);
  }, []);
  const cap = "rounded-sm border border-line px-1 font-mono text-[11px] text-quiet hover:text-ink";
  const recording = useUi((s) => s.recording);
  const slow = playing !== 0 && reached > 0 && reached < rate * 0.9;
  return (
    <div className="flex w-full items-center justify-between px-3">
      <button
        type="button"
        aria-label="Record"
        aria-pressed={recording}
        title={
          recording
            ? "What is changed is pinned on the frame of the playhead; press to end it (R)"
            : "Record: what is changed is pinned on the frame of the playhead (R)"
        }
        onClick={() => useUi.setState((s) => ({ recording: !s.recording }))}
        className={`rounded-full border p-[3px] ${recording ? "border-coral bg-coral text-ground" : "border-line text-coral"}`}
      >
        <Circle size={9} fill="currentColor" />
      </button>
      <button type="button" className={cap} aria-label="Play backwards" onClick={() => clock.play(-1)}>
        J
      </button>
      <button
        type="button"
        aria-label={playing ? "Stop" : "Play"}
        onClick={() => clock.play(playing ? 0 : 1)}
        className="flex size-[30px] items-center justify-center rounded-full border-2 border-verdigris text-verdigris"
      >
        {playing ? <Pause size={13} fill="currentColor" /> : <Play size={13} fill="currentColor" />}
      </button>
      <button type="button" className={cap} aria-label="Play forwards" onClick={() => clock.play(1)}>
        L
      </button>
      <span
        className={`w-[62px] text-right text-[11px] ${slow ? "text-brass" : "text-quiet"}`}
        title={
          slow
            ? "This machine shows fewer pictures; the speed is true, the others are dropped"
            : "Frames a second"
        }
      >
        {slow ? `${reached.toFixed(0)} of ${Number(rate.toFixed(2))} f/s` : `${Number(rate.toFixed(3))} f/s`}
      </span>
    </div>
  );
}
