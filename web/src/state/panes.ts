import { create } from "zustand";
import { remember, stored } from "./stored";

/** What stands round the picture: how large each pane is at least, at most and at first, in pixels. */
export const panes = {
  tree: { name: "the tree", least: 150, most: 420, first: 208 },
  sheet: { name: "the sheet", least: 290, most: 560, first: 320 },
  score: { name: "the score", least: 216, most: 520, first: 236 },
  bench: { name: "the bench", least: 180, most: 640, first: 248 },
} as const;
export type Pane = keyof typeof panes;

interface Panes {
  size: Partial<Record<Pane, number>>;
  folded: Partial<Record<Pane, boolean>>; // put away
  full: boolean; // the picture fills the window
}

export const usePanes = create<Panes>(() => ({
  ...stored<Pick<Panes, "size" | "folded">>("panes", { size: {}, folded: {} }),
  full: false,
}));
usePanes.subscribe(({ size, folded }) => remember("panes", { size, folded }));

const within = (pane: Pane, v: number) => Math.max(panes[pane].least, Math.min(panes[pane].most, v));

/** How large a pane is; 0 while it is put away. */
export const usePane = (pane: Pane) =>
  usePanes((s) =>
    s.full || s.folded[pane] ? 0 : Math.round(within(pane, s.size[pane] ?? panes[pane].first)),
  );

export const resize = (pane: Pane, to: number) =>
  usePanes.setState((s) => ({
    size: { ...s.size, [pane]: within(pane, to) },
    folded: { ...s.folded, [pane]: false },
  }));
export const fold = (pane: Pane) =>
  usePanes.setState((s) => ({ folded: { ...s.folded, [pane]: !s.folded[pane] } }));
export const fill = (full: boolean) => usePanes.setState({ full });
