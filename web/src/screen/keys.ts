import { useEffect } from "react";
import { newId } from "../api/ids";
import { useEdits } from "../api/queries";
import type { Edit } from "../api/types.gen";
import { clearChosen, useChosen } from "../state/chosen";
import { clock } from "../state/clock";
import { centred, movesAsked, stepped } from "../state/signals";
import { fill, fold, panes, usePanes, type Pane } from "../state/panes";
import { goTo, select, steps, useUi } from "../state/ui";
import { askForFiles } from "./BringIn";
import { copyParts, pasteParts } from "./clipboard";

export interface Command {
  name: string;
  keys: string; // as they are shown
  find?: string; // other words that it is found by
  match?: (e: KeyboardEvent) => boolean;
  run: () => void;
}

const key = (k: string) => (e: KeyboardEvent) =>
  e.key === k && !e.ctrlKey && !e.metaKey && !e.altKey && !e.shiftKey;
const shift = (k: string) => (e: KeyboardEvent) =>
  e.key === k && e.shiftKey && !e.ctrlKey && !e.metaKey && !e.altKey;
const control = (k: string, shift: boolean) => (e: KeyboardEvent) =>
  (e.ctrlKey || e.metaKey) && !e.altKey && e.shiftKey === shift && e.key.toLowerCase() === k;

/** Every command by its name, with its keys. */
export function commands(edits: {
  undo: () => void;
  redo: () => void;
  edit: (...list: Edit[]) => Promise<boolean>;
  make: (...list: Edit[]) => Promise<boolean>;
}): Command[] {
  const arrange = (of: (parts: string[]) => Edit) => {
    const { chosen } = useUi.getState();
    if (chosen.length) void edits.edit(of(chosen));
  };
  const guide = (g: "margins" | "thirds" | "centre") => () =>
    useUi.setState((s) => ({ guides: { ...s.guides, [g]: !s.guides[g] } }));
  return [
    { name: "Play or stop", keys: "Space", match: key(" "), run: () => clock.play(clock.playing ? 0 : 1) },
    { name: "Play backwards", keys: "J", match: key("j"), run: () => clock.play(-1) },
    { name: "Stop", keys: "K", match: key("k"), run: () => clock.play(0) },
    { name: "Play forwards", keys: "L", match: key("l"), run: () => clock.play(1) },
    { name: "One frame back", keys: "←", match: key("ArrowLeft"), run: () => nudge(-1) },
    { name: "One frame on", keys: "→", match: key("ArrowRight"), run: () => nudge(1) },
    {
      name: "Previous pin or bar edge",
      keys: "Shift ←",
      match: shift("ArrowLeft"),
      run: () => stepped.tell(-1),
    },
    {
      name: "Next pin or bar edge",
      keys: "Shift →",
      match: shift("ArrowRight"),
      run: () => stepped.tell(1),
    },
    {
      name: "Hold the selected part here: pin its place, turn and size",
      keys: "P",
      match: key("p"),
      run: () => {
        const { chosen } = useUi.getState();
        if (chosen.length) void edits.edit({ pinPose: { parts: chosen, time: clock.frame, whole: true } });
      },
    },
    {
      name: "Pin the pose of the selected part with all in it",
      keys: "Shift P",
      match: (e) => e.key === "P" && e.shiftKey && !e.ctrlKey && !e.metaKey && !e.altKey,
      run: () => {
        const { chosen } = useUi.getState();
        if (chosen.length)
          void edits.edit({ pinPose: { parts: chosen, time: clock.frame, whole: true, deep: true } });
      },
    },
    {
      name: "Record what is changed as pins",
      keys: "R",
      match: key("r"),
      run: () => useUi.setState((s) => ({ recording: !s.recording })),
    },
    {
      name: "Show or hide the proof",
      keys: "Shift L",
      match: shift("L"),
      run: () => useUi.setState((s) => ({ proof: !s.proof })),
    },
    { name: "First frame", keys: "Home", match: key("Home"), run: () => stopAt(0) },
    { name: "Last frame", keys: "End", match: key("End"), run: () => stopAt(clock.frames - 1) },
    { name: "Undo", keys: "Ctrl Z", match: control("z", false), run: edits.undo },
    { name: "Redo", keys: "Shift Ctrl Z", match: control("z", true), run: edits.redo },
    {
      name: "Add a move",
      keys: "M",
      match: key("m"),
      run: () => {
        goTo("Move");
        requestAnimationFrame(() => movesAsked.tell());
      },
    },
    {
      name: "Swap picture and bench",
      keys: "`",
      match: key("`"),
      run: () => useUi.setState((s) => ({ swapped: !s.swapped })),
    },
    {
      name: "Let the picture fill the window, or leave that",
      keys: "F",
      find: "full screen large maximise",
      match: key("f"),
      run: () => fill(!usePanes.getState().full),
    },
    ...(Object.keys(panes) as Pane[]).map((pane) => ({
      name: `Put away or bring back ${panes[pane].name}`,
      keys: "",
      find: "pane panel hide show fold",
      run: () => fold(pane),
    })),
    {
      name: "Centre the bench on the selection",
      keys: "C",
      match: key("c"),
      run: () => centred.tell(),
    },
    { name: "Handles that drag", keys: "D", match: key("d"), run: () => useUi.setState({ tool: "drag" }) },
    { name: "Handles that turn", keys: "T", match: key("t"), run: () => useUi.setState({ tool: "turn" }) },
    {
      name: "Handles that resize",
      keys: "Z",
      match: key("z"),
      run: () => useUi.setState({ tool: "resize" }),
    },
    {
      name: "Group what is selected",
      keys: "Ctrl G",
      match: control("g", false),
      run: () => {
        const id = newId();
        const { chosen } = useUi.getState();
        if (chosen.length)
          void edits.edit({ group: { parts: chosen, id, name: "Group" } }).then((ok) => ok && select(id));
      },
    },
    {
      name: "Duplicate what is selected",
      keys: "Ctrl D",
      match: control("d", false),
      run: () => {
        const { chosen } = useUi.getState();
        if (chosen.length) void edits.make({ duplicate: { parts: chosen, id: newId() } });
      },
    },
    {
      name: "Copy what is selected, for another shot too",
      keys: "Ctrl C",
      match: (e) => control("c", false)(e) && getSelection()?.toString() === "",
      run: copyParts,
    },
    { name: "Paste what was copied", keys: "Ctrl V", run: () => void pasteParts() }, // see useDrops
    {
      name: "Remove the pins, the bar or the part touched last",
      keys: "Delete",
      match: (e: KeyboardEvent) => e.key === "Delete",
      run: () => {
        const { pins, bars, last } = useChosen.getState();
        if (last === "part") arrange((parts) => ({ remove: { parts } }));
        else if (pins.length) void edits.edit({ removePins: { pins } }).then(clearChosen);
        else if (bars.length) void edits.edit({ removeMoves: { moves: bars } }).then(clearChosen);
        else arrange((parts) => ({ remove: { parts } }));
      },
    },
    {
      name: "Stand what is selected on the floor or plinth",
      keys: "",
      run: () => arrange((parts) => ({ stand: { parts, sink: 0 } })),
    },
    {
      name: "Leave the full window, or what is being picked, else select nothing",
      keys: "Escape",
      match: key("Escape"),
      run: () => {
        if (usePanes.getState().full) fill(false);
        else if (useUi.getState().picking !== null) useUi.setState({ picking: null });
        else select(null);
      },
    },
    {
      name: "Find a command",
      keys: "Ctrl K",
      match: control("k", false),
      run: () => useUi.setState({ dialog: "commands" }),
    },
    {
      name: "Show the keys",
      keys: "?",
      match: (e) => e.key === "?",
      run: () => useUi.setState({ dialog: "keys" }),
    },
    ...steps.map((s, i) => ({
      name: `Go to ${s}`,
      keys: String(i + 1),
      match: key(String(i + 1)),
      run: () => goTo(s),
    })),
    { name: "Bring in a model", keys: "", run: () => askForFiles() },
    { name: "Show the workers that render", keys: "", run: () => useUi.setState({ dialog: "workers" }) },
    { name: "Show the history", keys: "", run: () => useUi.setState({ dialog: "history" }) },
    { name: "Show or hide the margins", keys: "", run: guide("margins") },
    { name: "Show or hide the thirds", keys: "", run: guide("thirds") },
    { name: "Show or hide the centre", keys: "", run: guide("centre") },
    {
      name: "Change between dark and light",
      keys: "",
      run: () => useUi.setState((s) => ({ light: !s.light })),
    },
  ];
}

function stopAt(frame: number) {
  clock.play(0);
  clock.seek(frame);
}

const nudge = (by: number) => stopAt(clock.frame + by);

export function useKeys() {
  const { undo, redo, edit, make } = useEdits();
  useEffect(() => {
    const list = commands({ undo, redo, edit, make });
    const press = (e: KeyboardEvent) => {
      const el = e.target as HTMLElement;
      if (e.defaultPrevented || useUi.getState().dialog !== null) return;
      if (/^(INPUT|TEXTAREA|SELECT)$/.test(el.tagName) || el.isContentEditable) return;
      if (el.closest('[role="menu"],[role="listbox"],[role="dialog"]')) return;
      // Space plays, but for a control that the keyboard has come to, which it presses.
      // (:focus-visible does not tell: by the time that a key is heard of, it holds of what was clicked, too.)
      if (e.key === " " && byKeyboard && el.closest("button,[role=switch]")) return;
      const c = list.find((c) => c.match?.(e));
      if (!c) return;
      e.preventDefault();
      e.stopPropagation();
      c.run();
    };
    let [last, byKeyboard] = ["pointer", false]; // what was used last, and what brought the focus to where it is
    const used = (e: Event) => (last = e.type);
    const came = () => (byKeyboard = last === "keydown");
    addEventListener("pointerdown", used, true);
    addEventListener("keydown", used, true);
    addEventListener("focusin", came, true);
    const early = (e: KeyboardEvent) => e.key === " " && press(e); // before a button that was clicked takes it
    addEventListener("keydown", early, true);
    addEventListener("keydown", press);
    return () => {
      removeEventListener("pointerdown", used, true);
      removeEventListener("keydown", used, true);
      removeEventListener("focusin", came, true);
      removeEventListener("keydown", early, true);
      removeEventListener("keydown", press);
    };
  }, [undo, redo, edit, make]);
}
