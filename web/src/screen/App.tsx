import { X } from "lucide-react";
import { useEffect } from "react";
import { client, keys, useServerState, useShot } from "../api/queries";
import type { State } from "../api/types.gen";
import { Player } from "../player/Player";
import { Score } from "../score/Score";
import { Sheet } from "../sheets/Sheet";
import { clock } from "../state/clock";
import { hush, useNotices } from "../state/notices";
import { usePane, usePanes } from "../state/panes";
import { useProgress } from "../state/progress";
import { remember, stored } from "../state/stored";
import { openShot, useUi } from "../state/ui";
import { Views } from "../views/Views";
import { BringInPanel, useDrops } from "./BringIn";
import { Dialogs } from "./Dialogs";
import { Edge } from "./Edge";
import { useKeys } from "./keys";
import { PartsTree } from "./PartsTree";
import { TopBar } from "./TopBar";

export function App() {
  const state = useServerState();
  const id = useUi((s) => s.shot);
  const shot = useShot();
  const player = useUi((s) => s.player);
  const full = usePanes((s) => s.full);
  const [tree, sheet, score] = [usePane("tree"), usePane("sheet"), usePane("score")];
  useKeys();
  useDrops();

  useEffect(() => {
    // without an address the shot that was open last opens, or the newest project; one that is gone falls back to it
    // (the newest list, when none is on its way and the last one came: an older one has not got a shot that has just been made)
    if (client.isFetching({ queryKey: keys.state }) > 0 || state.isError) return;
    const newest = client.getQueryData<State>(keys.state);
    const all = newest?.projects.flatMap((p) => p.shots.map((s) => s.id)) ?? [];
    if (!newest) return;
    if (id !== null && all.includes(id)) return remember("shot", id);
    const last = stored<string | null>("shot", null);
    openShot(all.find((s) => s === last) ?? all[0] ?? null);
  }, [state.data, state.isFetching, state.isError, id]);

  const d = shot?.document;
  useEffect(() => {
    if (d) clock.configure(d.frames, d.rate.num / d.rate.den, d.ending === "loop");
  }, [d]);
  useEffect(() => {
    clock.play(0);
    clock.seek(0);
  }, [shot?.id]);

  const open = id !== null && shot?.id === id;
  return (
    <div className="flex h-full min-h-[560px] min-w-[1100px] flex-col">
      {!full && <TopBar shot={open ? shot : undefined} />}
      {open ? (
        <>
          <main className="flex min-h-0 flex-1">
            {tree > 0 && <PartsTree shot={shot} />}
            <Edge pane="tree" lies="left" />
            {player ? <Player id={player} /> : <Views shot={shot} />}
            <Edge pane="sheet" lies="right" />
            {sheet > 0 && <Sheet shot={shot} />}
          </main>
          <Edge pane="score" lies="down" />
          {score > 0 && <Score shot={shot} />}
        </>
      ) : (
        <main className="flex min-h-0 flex-1 items-center justify-center bg-surround">
          {state.isError ? (
            <p className="text-coral">{state.error.message}</p>
          ) : state.data && state.data.projects.length === 0 ? (
            <BringInPanel first />
          ) : (
            <p className="text-quiet">Opening…</p>
          )}
        </main>
      )}
      <Notices />
      <Dialogs shot={open ? shot : undefined} />
    </div>
  );
}

function Notices() {
  const list = useNotices((s) => s.list);
  const online = useProgress((s) => s.online);
  return (
    <div
      className="pointer-events-none fixed top-[50px] left-1/2 z-50 flex w-max max-w-[640px] -translate-x-1/2 flex-col gap-1.5"
      role="status"
    >
      {!online && (
        <p className="rounded-md border border-coral bg-raised px-3 py-2 shadow-lg">
          The server does not answer. Everything up to your last edit is saved; this page connects again by
          itself.
        </p>
      )}
      {list.map((n) => (
        <p
          key={n.id}
          className="pointer-events-auto flex items-start gap-3 rounded-md border border-coral bg-raised px-3 py-2 shadow-lg"
        >
          <span>{n.text}</span>
          <button
            type="button"
            aria-label="Close"
            onClick={() => hush(n.id)}
            className="mt-0.5 text-quiet hover:text-ink"
          >
            <X size={14} />
          </button>
        </p>
      ))}
    </div>
  );
}
