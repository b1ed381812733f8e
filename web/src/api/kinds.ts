import { useServerState } from "./queries";
import type { Description, Kinds } from "./types.gen";

/** What the core knows kinds of. It is there before any shot is. */
export function useKinds(): Kinds | undefined {
  return useServerState().data?.kinds;
}

/** The description of a kind of move. */
export function useKind(kind: string): Description | undefined {
  return useKinds()?.moves.find((k) => k.kind === kind);
}
