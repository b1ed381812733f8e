import { create } from "zustand";
import type { StepEvent } from "../api/types.gen";

/** What the server last said about long work, and whether it can be reached. */
export const useProgress = create<{ online: boolean; import: StepEvent | null; test: StepEvent | null }>(
  () => ({
    online: true,
    import: null,
    test: null,
  }),
);
