import { api } from "../api/client";
import { client, keys, renew } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { say } from "../state/notices";
import { remember, stored } from "../state/stored";
import { choose, useUi } from "../state/ui";

/** What was copied, in this window or another: parts of a shot. */
interface Copied {
  shot: string;
  parts: string[];
}
const place = "copied";

export function copyParts() {
  const { shot, chosen } = useUi.getState();
  if (shot === null || chosen.length === 0) return;
  remember(place, { shot, parts: chosen } satisfies Copied);
  const document = client.getQueryData<ShotReply>(keys.shot(shot))?.document;
  const name = document?.parts.find((p) => p.id === chosen[0])?.name;
  say(
    `${chosen.length === 1 && name ? name : `${chosen.length} parts`} copied. Ctrl V puts ${chosen.length === 1 ? "it" : "them"} into the shot that is open then.`,
  );
}

export async function pasteParts() {
  const { shot } = useUi.getState();
  const copied = stored<Copied | null>(place, null);
  if (shot === null || copied === null) return;
  try {
    const got = await api.paste(shot, copied.shot, copied.parts);
    await renew(keys.shot(shot));
    choose(got.parts);
  } catch (e) {
    say((e as Error).message);
  }
}
