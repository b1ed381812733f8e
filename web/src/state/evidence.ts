import { create } from "zustand";
import type { Line } from "../api/types.gen";
import { clock } from "./clock";

/** Evidence that is drawn in the picture and the bench. */
export const useEvidence = create<{
  finding: { lines: Line[]; frame: number } | null; // of the finding that is shown, on the frame that it is shown on
  meter: Line[]; // of the distance that is measured, one a frame
}>(() => ({ finding: null, meter: [] }));

/** What is drawn on the frame of the playhead. */
export function evidenceNow({ finding, meter } = useEvidence.getState()): Line[] {
  const measured = meter[clock.frame];
  return [
    ...(finding && finding.frame === clock.frame ? finding.lines : []),
    ...(measured ? [measured] : []),
  ];
}
