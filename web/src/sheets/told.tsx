import type { Move, Part, ShotReply } from "../api/types.gen";
import { PaceWords, SpanWords, type Change } from "./words";

/** What a sentence tells of. */
export interface Told {
  shot: ShotReply;
  part: Part;
  move: Move;
  set: Change;
}

export const directions = ["clockwise", "counterclockwise"] as const;

export const Name = ({ part }: { part: Part }) => <strong className="font-semibold">{part.name}</strong>;

/** ", over the whole loop, then it stays, at constant speed." */
export const Timing = (t: Told) => (
  <>
    , <SpanWords {...t} />, at <PaceWords {...t} />.
  </>
);
