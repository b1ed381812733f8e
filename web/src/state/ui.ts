import { create } from "zustand";
import { remember, stored } from "./stored";

export const steps = ["Bring in", "Arrange", "Move", "Frame", "Light", "Check", "Render"] as const;
export type Step = (typeof steps)[number];

interface Ui {
  shot: string | null; // the open shot
  step: Step;
  selected: string | null; // the part that was selected last
  chosen: string[]; // all that are selected, that one too
  against: string; // the part that the distance of the selected one is measured to; none where it is empty
  tool: "drag" | "turn" | "resize"; // of the handles in the bench
  even: boolean; // sizes change with their proportions
  axes: "room" | "parent" | "own"; // that the handles follow
  snap: "free" | "steps" | "vertices" | "edges" | "faces" | "floor";
  picking:
    | "pivot"
    | "hole"
    | "from"
    | "to"
    | "point"
    | "diameter"
    | "thickness"
    | "surface"
    | "highlight"
    | "between"
    | "aim"
    | "shadow"
    | "marquee"
    | "part"
    | "axis"
    | "place"
    | null; // what the next click in the bench picks
  asking: string; // which word the part that is picked next is for
  recording: boolean; // what is changed is pinned on the frame of the playhead
  proof: boolean; // the real renderer over the picture
  through: string | null; // a camera that is looked through in place of the one in use
  angle: string | null; // that was picked
  compared: string[]; // angles that are compared, and whether they are shown
  comparing: boolean;
  overlay: string | null; // an angle that lies over the picture
  swapped: boolean; // the bench is large and the picture small
  dialog: "keys" | "commands" | "history" | "workers" | null;
  guides: { margins: boolean; thirds: boolean; centre: boolean };
  light: boolean; // the light theme
  player: string | null; // the run that is looked at in place of the views
}

/** What the interface shows, as far as it is nobody else's business. */
export const useUi = create<Ui>(() => ({
  shot: /^\/shots\/([\w-]+)$/.exec(location.pathname)?.[1] ?? null,
  step: stored<Step>("step", "Move"),
  selected: null,
  against: "",
  chosen: [],
  tool: "drag",
  even: true,
  axes: "room",
  snap: "free",
  picking: null,
  asking: "",
  recording: false,
  proof: false,
  through: null,
  angle: null,
  compared: [],
  comparing: false,
  overlay: null,
  swapped: false,
  dialog: null,
  guides: stored("guides", { margins: true, thirds: false, centre: false }),
  light: stored("light", false),
  player: null,
}));

useUi.subscribe((s, before) => {
  for (const key of ["step", "guides", "light"] as const) if (s[key] !== before[key]) remember(key, s[key]);
  if (s.light !== before.light) applyTheme();
});

export function applyTheme() {
  document.documentElement.classList.toggle("light", useUi.getState().light);
}

export const goTo = (step: Step) =>
  useUi.setState((s) => ({ step, player: step === "Render" ? s.player : null }));
export const select = (part: string | null) =>
  useUi.setState({ selected: part, chosen: part === null ? [] : [part] });

/** Takes a part into the selection, or out of it. */
export const toggle = (part: string) =>
  useUi.setState((s) => {
    const chosen = s.chosen.includes(part) ? s.chosen.filter((p) => p !== part) : [...s.chosen, part];
    return { chosen, selected: chosen.at(-1) ?? null };
  });

export const choose = (parts: string[]) => useUi.setState({ chosen: parts, selected: parts.at(-1) ?? null });

/** What is forgotten with another shot. */
const nothing = {
  selected: null,
  chosen: [],
  picking: null,
  player: null,
  through: null,
  angle: null,
  compared: [],
  comparing: false,
  overlay: null,
};

/** Opens a shot and puts it into the address. */
export function openShot(id: string | null) {
  if (useUi.getState().shot === id) return;
  history.pushState(null, "", id === null ? "/" : "/shots/" + id);
  useUi.setState({ shot: id, ...nothing });
}

addEventListener("popstate", () => {
  useUi.setState({
    shot: /^\/shots\/([\w-]+)$/.exec(location.pathname)?.[1] ?? null,
    ...nothing,
  });
});
