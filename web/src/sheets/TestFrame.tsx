import { useEffect, useRef, useState } from "react";
import { api } from "../api/client";
import type { Settings, ShotReply } from "../api/types.gen";
import { Button } from "../fields/controls";
import { clock } from "../state/clock";
import { say } from "../state/notices";
import { useProgress } from "../state/progress";
import { Section } from "./Section";

/** One frame, rendered as the run would. */
export function TestFrame(p: {
  shot: ShotReply;
  settings: Settings;
  bad: boolean;
  timed: (seconds: number) => void;
}) {
  const [picture, setPicture] = useState<{ url: string; frame: number; seconds: number } | null>(null);
  const [busy, setBusy] = useState(false);
  const step = useProgress((s) => s.test);
  const url = useRef("");
  useEffect(() => () => URL.revokeObjectURL(url.current), []);
  const go = async () => {
    clock.play(0);
    const frame = Math.min(p.settings.to, Math.max(p.settings.from, clock.frame));
    setBusy(true);
    useProgress.setState({ test: null });
    try {
      const got = await api.test(p.shot.id, p.settings, frame);
      URL.revokeObjectURL(url.current);
      url.current = URL.createObjectURL(got.picture);
      setPicture({ url: url.current, frame, seconds: got.seconds });
      p.timed(got.seconds);
    } catch (e) {
      if ((e as Error).message !== "It was cancelled.") say((e as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const share = step?.ticket === p.shot.id ? step.share : 0;
  return (
    <Section
      title="Test frame"
      note={
        picture
          ? `frame ${picture.frame} · ${picture.seconds.toFixed(1)} s`
          : "at the playhead, as the run would render it"
      }
    >
      {picture && !busy && (
        <a href={picture.url} target="_blank" rel="noreferrer" title="Open at full size">
          <img
            src={picture.url}
            alt={`Test of frame ${picture.frame}`}
            className="checker mb-2 max-h-[150px] w-full object-contain"
            data-testid="test-frame"
          />
        </a>
      )}
      {busy ? (
        <div className="flex items-center gap-3">
          <div
            className="h-1.5 flex-1 overflow-hidden rounded-full bg-ground"
            role="progressbar"
            aria-valuenow={Math.round(share * 100)}
          >
            <div className="h-full bg-verdigris" style={{ width: `${share * 100}%` }} />
          </div>
          <Button onClick={() => void api.cancelTest(p.shot.id)}>Cancel</Button>
        </div>
      ) : (
        <Button disabled={p.bad} onClick={() => void go()}>
          Render a test frame
        </Button>
      )}
    </Section>
  );
}
