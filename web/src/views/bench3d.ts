import type * as THREE from "three";
import type { Stage } from "./stage";

/** What lies over the bench needs of what is drawn in it. Filled in by the views. */
export const bench3d: {
  stage: Stage | null;
  eye: THREE.PerspectiveCamera | null;
  invalidate: () => void;
  hold: (on: boolean) => void; // keeps the bench's own eye still while handles are dragged
} = { stage: null, eye: null, invalidate: () => {}, hold: () => {} };
