import {
  keepPreviousData,
  QueryClient,
  type QueryKey,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useCallback } from "react";
import { say } from "../state/notices";
import { choose, useUi } from "../state/ui";
import { parseBake } from "../views/bake";
import { whole } from "./change";
import { api, Refusal } from "./client";
import type { Curve, Edit, Finding, RehearsalReply, ShotChange, ShotReply } from "./types.gen";

export const keys = {
  state: ["state"] as const,
  shot: (id: string) => ["shot", id] as const,
  findings: (id: string, version: number) => ["findings", id, version] as const,
  rehearsal: (id: string) => ["rehearsal", id] as const,
  bake: (id: string, version: number) => ["bake", id, version] as const,
  suiting: (id: string, version: number, parts: string[]) => ["suiting", id, version, ...parts] as const,
  curves: (id: string, version: number, part: string) => ["curves", id, version, part] as const,
  history: (id: string, version: number) => ["history", id, version] as const,
  runs: ["runs"] as const,
  workers: ["workers"] as const,
  run: (id: string) => ["run", id] as const,
};

// Asked whether or not the browser sees a network: the server mostly is on this machine.
export const client = new QueryClient({
  defaultOptions: {
    queries: { staleTime: Infinity, retry: 1, refetchOnWindowFocus: false, networkMode: "always" },
  },
});

/**
 * Has what is shown asked for anew, of one key or of all, and waits for it. An answer that is on its way was asked for
 * before, and may not know: it is let go, the first one too, which the library would wait for.
 */
export async function renew(queryKey?: QueryKey) {
  await client.cancelQueries({ queryKey, predicate: (q) => q.state.data === undefined });
  await client.invalidateQueries({ queryKey });
}

export const useServerState = () => useQuery({ queryKey: keys.state, queryFn: api.state });

/** The open shot, or undefined while it loads or where none is open. */
export function useShot(): ShotReply | undefined {
  const id = useUi((s) => s.shot);
  return useQuery({
    queryKey: keys.shot(id ?? ""),
    queryFn: async () => {
      const got = await api.shot(id ?? "");
      const held = client.getQueryData<ShotReply>(keys.shot(id ?? ""));
      return held && held.version > got.version ? held : got; // a change was answered meanwhile
    },
    enabled: id !== null,
    placeholderData: keepPreviousData,
    structuralSharing: false, // answers to changes share what is as it was
  }).data;
}

/** The baked motion of the open shot. While a newer one loads the one before stays. */
export function useBake(shot: ShotReply | undefined) {
  return useQuery({
    queryKey: keys.bake(shot?.id ?? "", shot?.version ?? 0),
    queryFn: async () => parseBake(await api.bake(shot?.id ?? "")),
    enabled: shot !== undefined,
    placeholderData: keepPreviousData,
    gcTime: 30_000,
  }).data;
}

/** What was found about a shot; while a newer version is looked at, what was found about the one before. */
export interface Found {
  list: Finding[];
  looking: boolean;
  shorter: number;
  failed: string | null;
}

const nothing: Finding[] = [];

/** What would ruin a render of the open shot. It is looked for in the background, and nothing waits for it. */
export function useFindings(shot: ShotReply): Found {
  const got = useQuery({
    queryKey: keys.findings(shot.id, shot.version),
    queryFn: () => api.findings(shot.id),
    placeholderData: (was, query) => (query?.queryKey[1] === shot.id ? was : undefined),
    retry: (n, e) => n < 3 && e instanceof Refusal && e.status === 409, // a newer version was looked at, and it is wanted again
    gcTime: 30_000,
  });
  return {
    list: got.data?.findings ?? nothing,
    looking: got.isFetching,
    shorter: got.data?.shorter ?? 0,
    failed: got.error instanceof Error ? got.error.message : null,
  };
}

/** The last rehearsal of a shot, undefined while it loads. */
export function useRehearsal(id: string): RehearsalReply | undefined {
  return useQuery({ queryKey: keys.rehearsal(id), queryFn: () => api.rehearsal(id) }).data;
}

/** Starts a rehearsal of a shot as it is now, unless there is one. */
export async function rehearse(id: string): Promise<RehearsalReply> {
  const r = await api.rehearse(id);
  client.setQueryData(keys.rehearsal(id), r);
  return r;
}

/** Rehearses a shot, and resolves when that has ended. */
export async function rehearsedWhole(id: string): Promise<RehearsalReply> {
  let r = await rehearse(id);
  while (r.state === "running") {
    await new Promise((go) => setTimeout(go, 500));
    r = await api.rehearsal(id);
  }
  client.setQueryData(keys.rehearsal(id), r);
  return r;
}

const noCurves: Curve[] = [];

/** The pins of a part and of its moves as the core samples them; none where there are no pins. */
export function useCurves(shot: ShotReply, part: string, wanted = true): Curve[] {
  return (
    useQuery({
      queryKey: keys.curves(shot.id, shot.version, part),
      queryFn: () => api.curves(shot.id, part),
      enabled: wanted,
      placeholderData: keepPreviousData,
      gcTime: 30_000,
    }).data?.curves ?? noCurves
  );
}

/** Which moves and combinations suit the parts. */
export function useSuiting(shot: ShotReply, parts: string[], wanted: boolean) {
  return useQuery({
    queryKey: keys.suiting(shot.id, shot.version, parts),
    queryFn: () => api.suiting(shot.id, parts),
    enabled: wanted,
    gcTime: 30_000,
  }).data;
}

/**
 * An edit, or how it follows from the shot as all edits before it have left it: what puts one number of several in their
 * place must not bring back the others as they were seen when it was typed.
 */
export type Said = Edit | ((now: ShotReply) => Edit | Edit[]);

const said = (list: Said[], now: ShotReply): Edit[] =>
  list.flatMap((e) => (typeof e === "function" ? e(now) : e));

/** Changes go one after another, each from the version that the one before left. */
let turn: Promise<unknown> = Promise.resolve();

/** Resolves when the changes asked for so far have been answered. */
export const answered = () => turn;

function change(
  id: string,
  ask: (version: number, now: ShotReply) => Promise<ShotChange>,
  then?: (made: string[]) => void,
): Promise<boolean> {
  const next = turn.then(async () => {
    const seen = client.getQueryData<ShotReply>(keys.shot(id));
    if (!seen) return false;
    try {
      const answer = await ask(seen.version, seen);
      const reply = whole(seen, answer);
      client.setQueryData<ShotReply>(keys.shot(id), (held) =>
        held && held.version > reply.version ? held : reply,
      );
      if (reply.document.name !== seen.document.name) void renew(keys.state);
      then?.(answer.made ?? []);
      return true;
    } catch (e) {
      if (e instanceof Refusal && e.shot) client.setQueryData(keys.shot(id), e.shot);
      say(e instanceof Error ? e.message : String(e));
      return false;
    }
  });
  turn = next;
  return next;
}

/** Edits of the open shot. They tell whether the server took them; refusals are shown as notices. */
export function useEdits() {
  const q = useQueryClient();
  const id = useUi((s) => s.shot);
  const edit = useCallback(
    (...list: Said[]) =>
      id === null
        ? Promise.resolve(false)
        : change(id, (version, now) => api.edit(id, version, said(list, now))),
    [id],
  );
  // An edit that makes parts leaves those selected: what comes next is meant for them.
  const make = useCallback(
    (...list: Edit[]) =>
      id === null
        ? Promise.resolve(false)
        : change(
            id,
            (version) => api.edit(id, version, list),
            (made) => made.length > 0 && choose(made),
          ),
    [id],
  );
  const undo = useCallback(() => {
    if (id !== null && q.getQueryData<ShotReply>(keys.shot(id))?.canUndo)
      void change(id, (v) => api.undo(id, v));
  }, [id, q]);
  const redo = useCallback(() => {
    if (id !== null && q.getQueryData<ShotReply>(keys.shot(id))?.canRedo)
      void change(id, (v) => api.redo(id, v));
  }, [id, q]);
  const restore = useCallback(
    (n: number) => (id === null ? Promise.resolve(false) : change(id, (v) => api.restore(id, v, n))),
    [id],
  );
  return { edit, make, undo, redo, restore };
}
