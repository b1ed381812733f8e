import type * as THREE from "three";
import { create } from "zustand";
import type { Stage } from "./stage";

/** What lies over the bench needs of what is drawn in it. Filled in by the views. */
interface Bench {
  stage: Stage | null;
  eye: THREE.PerspectiveCamera | null;
  panes: { el: HTMLElement; angle: string }[]; // angles that are compared, and where they are drawn
  invalidate: () => void;
  hold: (on: boolean) => void; // keeps the bench's own eye still while handles are dragged
}

export const useBench = create<Bench>(() => ({
  stage: null,
  eye: null,
  panes: [],
  invalidate: () => {},
  hold: () => {},
}));
