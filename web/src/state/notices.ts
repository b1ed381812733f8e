import { create } from "zustand";

/** Sentences that something went wrong, shown until they are closed or have been there long enough to be read. */
export const useNotices = create<{ list: { id: number; text: string }[] }>(() => ({ list: [] }));

let count = 0;

export function say(text: string) {
  const id = ++count;
  useNotices.setState((s) => ({ list: [...s.list.filter((n) => n.text !== text), { id, text }].slice(-4) }));
  setTimeout(() => hush(id), 6000 + 70 * text.length);
}

export function hush(id: number) {
  useNotices.setState((s) => ({ list: s.list.filter((n) => n.id !== id) }));
}
