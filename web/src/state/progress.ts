import { create } from "zustand";
import type { CheckEvent, StepEvent } from "../api/types.gen";

/** What the server last said about long work, and whether it can be reached. */
export const useProgress = create<{
  online: boolean;
  import: StepEvent | null;
  test: StepEvent | null;
  check: CheckEvent | null;
  apart: CheckEvent | null;
}>(() => ({
  online: true,
  import: null,
  test: null,
  check: null,
  apart: null,
}));
