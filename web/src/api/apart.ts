import { create } from "zustand";
import { say } from "../state/notices";
import { api } from "./client";
import { newId } from "./ids";
import type { ApartReply, ApartStep, Edit, ShotReply, Wish } from "./types.gen";

/** The group for which it is being found out how it comes apart. */
export const usePlanning = create<{ part: string | null }>(() => ({ part: null }));

/** Finds how a group comes apart; nothing where it does not, or was stopped: that has been said then. */
async function planned(shot: ShotReply, wish: Wish): Promise<ApartReply | null> {
  usePlanning.setState({ part: wish.part });
  try {
    const r = await api.apart(shot.id, wish);
    const name = (id: string) => shot.document.parts.find((p) => p.id === id)?.name ?? id;
    const steps = (r.move as { "take apart"?: { steps: ApartStep[] } })["take apart"]?.steps ?? [];
    const goes = new Set(steps.flatMap((s) => s.parts.map((p) => p.part)));
    const list = (of: ApartReply["left"]) =>
      of
        .slice(0, 4)
        .map((l) => `${name(l.part)} (in its way: ${l.by.slice(0, 3).map(name).join(", ")})`)
        .join("; ") + (of.length > 4 ? ` and ${of.length - 4} more` : "");
    const stuck = r.left.filter((l) => !goes.has(l.part));
    const together = r.left.filter((l) => goes.has(l.part));
    if (stuck.length > 0)
      say(
        `Cannot leave along a straight line, and stay: ${list(stuck)}. Give them a way by hand in the list of steps.`,
      );
    else if (together.length > 0)
      say(`Leave as one, since none of them can leave the others along a straight line: ${list(together)}.`);
    return r;
  } catch (e) {
    say((e as Error).message);
    return null;
  } finally {
    usePlanning.setState({ part: null });
  }
}

/** Gives a group the move that takes it apart. */
export async function takeApart(
  shot: ShotReply,
  part: string,
  edit: (...list: Edit[]) => Promise<boolean>,
): Promise<void> {
  const r = await planned(shot, { part });
  if (r) await edit({ addMove: { part, move: { ...r.move, id: newId() } } });
}

/** Plans the steps of a move anew. */
export async function planAnew(
  shot: ShotReply,
  move: string,
  wish: Wish,
  edit: (...list: Edit[]) => Promise<boolean>,
): Promise<void> {
  const r = await planned(shot, wish);
  const data = (r?.move as { "take apart"?: { steps: unknown[] } } | undefined)?.["take apart"];
  if (data)
    await edit({
      setMove: { move, values: { steps: data.steps } },
    });
}
