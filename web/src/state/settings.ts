import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import { api } from "../api/client";
import type { NameReply, Settings, ShotReply } from "../api/types.gen";
import { remember, stored } from "./stored";

/** What a shot is rendered with, as far as that was changed: it is kept by shot. */
const useOwn = create<{ [shot: string]: Partial<Settings> }>(() => ({}));

/** Settings of the render of a shot; size and range follow the shot until they are changed, and again where they are set to nothing. */
export function useSettings(shot: ShotReply): [Settings, (s: Partial<Settings>) => void] {
  const key = "render." + shot.id;
  const own = useOwn((s) => s[shot.id]) ?? sound(stored<Partial<Settings>>(key, {}), shot.run);
  const change = (s: Partial<Settings>) => {
    const next = { ...own, ...s };
    for (const k in next) {
      const name = k as keyof Settings;
      if (next[name] === undefined) delete next[name]; // it would stand in the way of what the shot has
    }
    remember(key, next);
    useOwn.setState({ [shot.id]: next });
  };
  const base = shot.run;
  const all = { ...base, ...own };
  if (own.width === undefined) all.height = base.height;
  else all.height = Math.max(1, Math.round((own.width * base.height) / base.width));
  all.to = Math.min(all.to, base.to);
  all.from = Math.min(all.from, all.to);
  return [all, change];
}

/** Settings without those that are null where a number has to be: a browser may remember such. */
const sound = (own: Partial<Settings>, base: Settings): Partial<Settings> =>
  Object.fromEntries(
    Object.entries(own).filter(
      ([name, value]) => value !== null || typeof base[name as keyof Settings] !== "number",
    ),
  );

/** What the files of a run will be called, and what is found in its settings; undefined while that is asked for. */
export const useOutput = (shot: ShotReply, settings: Settings): NameReply | undefined =>
  useQuery({
    queryKey: ["names", shot.id, shot.version, settings],
    queryFn: () => api.names(shot.id, settings),
    placeholderData: (p) => p,
  }).data;
