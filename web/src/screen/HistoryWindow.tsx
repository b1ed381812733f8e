import { useQuery } from "@tanstack/react-query";
import { Bookmark } from "lucide-react";
import { useState } from "react";
import { api } from "../api/client";
import { client, keys, useEdits } from "../api/queries";
import type { Revision, ShotReply } from "../api/types.gen";
import { Button } from "../fields/controls";
import { Windowed } from "../fields/Windowed";
import { say } from "../state/notices";
import { ask } from "./ask";
import { Window } from "./Window";

const time = new Intl.DateTimeFormat([], {
  month: "short",
  day: "numeric",
  hour: "2-digit",
  minute: "2-digit",
  hourCycle: "h23",
});

/** Every revision of the shot, with those that are kept under a name; any can be compared and gone back to. */
export function HistoryWindow({ shot }: { shot: ShotReply }) {
  const { restore } = useEdits();
  const [named, setNamed] = useState(false); // only those with a name
  const [other, setOther] = useState<number | null>(null); // compared with what is shown
  const key = keys.history(shot.id, shot.version);
  const all = useQuery({ queryKey: key, queryFn: () => api.history(shot.id) }).data;
  const list = named ? all?.filter((r) => r.name) : all;
  const keep = async (r: Revision) => {
    const name = await ask({
      title: r.name ? "Name of this version" : "Keep this version as",
      text: r.name ? "Without a name it stays in the history." : undefined,
      value: r.name || r.words,
      yes: "Keep",
    });
    if (name === null) return;
    try {
      client.setQueryData(key, await api.nameVersion(shot.id, r.number, name));
    } catch (e) {
      say((e as Error).message);
    }
  };
  const forget = async (r: Revision) =>
    client.setQueryData(key, await api.nameVersion(shot.id, r.number, ""));
  const here = all?.find((r) => r.shown);
  return (
    <Window title={`History of ${shot.document.name}`} wide>
      <div className="mb-2 flex items-center gap-2">
        <p className="flex-1 text-[11px] text-quiet">
          Every edit is kept. Going back loses nothing: what came after stays in the list.
        </p>
        <Button onClick={() => setNamed(!named)}>{named ? "All edits" : "Kept versions"}</Button>
        {here && (
          <Button primary onClick={() => void keep(here)}>
            <Bookmark size={13} /> Keep this version…
          </Button>
        )}
      </div>
      {list?.length === 0 && <p className="py-3 text-quiet">No version has been kept under a name yet.</p>}
      {list && (
        <Windowed rows={list} height={46} most={360} label="Revisions">
          {(r) => (
            <li
              key={r.number}
              className={`group flex h-[46px] items-center gap-2 rounded-sm pr-2 hover:bg-raised ${r.shown ? "bg-verdigris/20" : ""}`}
            >
              <button
                type="button"
                aria-current={r.shown}
                title="Go back to it"
                onClick={() => void restore(r.number)}
                className="flex h-full min-w-0 flex-1 items-center gap-3 pl-2 text-left"
              >
                <span className="w-8 shrink-0 text-right font-mono text-[11px] text-quiet">{r.number}</span>
                <span className="checker flex h-[40px] w-[56px] shrink-0 items-center justify-center overflow-hidden rounded-sm">
                  {r.seen && (
                    <img
                      src={`/api/shots/${shot.id}/history/${r.number}/picture`}
                      alt=""
                      className="size-full object-contain"
                    />
                  )}
                </span>
                <span className="min-w-0 flex-1">
                  <span className="block truncate">{r.name || r.words}</span>
                  {r.name && <span className="block truncate text-[11px] text-quiet">{r.words}</span>}
                </span>
                <span className="shrink-0 text-[11px] text-quiet">{time.format(new Date(r.made))}</span>
              </button>
              <span className="flex shrink-0 gap-1.5 text-[11px] opacity-0 group-hover:opacity-100 focus-within:opacity-100">
                <button type="button" className="underline" onClick={() => void keep(r)}>
                  {r.name ? "rename" : "keep"}
                </button>
                {r.name && (
                  <button type="button" className="underline" onClick={() => void forget(r)}>
                    forget the name
                  </button>
                )}
                {!r.shown && (
                  <button type="button" className="underline" onClick={() => setOther(r.number)}>
                    compare
                  </button>
                )}
              </span>
              {r.name && <Bookmark size={13} className="shrink-0 fill-brass text-brass" aria-label="kept" />}
            </li>
          )}
        </Windowed>
      )}
      {other !== null && here && other !== here.number && (
        <Comparison shot={shot} from={other} to={here.number} />
      )}
    </Window>
  );
}

function Comparison({ shot, from, to }: { shot: ShotReply; from: number; to: number }) {
  const got = useQuery({
    queryKey: ["compare", shot.id, from, to],
    queryFn: () => api.compare(shot.id, from, to),
  }).data;
  return (
    <section className="mt-2 border-t border-line pt-2" aria-label="Comparison">
      <h3 className="mb-1 font-semibold">
        What is shown, compared with {from}
        {got && <span className="font-normal text-quiet"> · {got.differences.length} differences</span>}
      </h3>
      {got?.differences.length === 0 && <p className="text-quiet">They are the same.</p>}
      {got && (
        <Windowed rows={got.differences} height={22} most={132} label="Differences">
          {(d, i) => (
            <li key={i} className="h-[22px] truncate leading-[22px]" title={d}>
              {d}
            </li>
          )}
        </Windowed>
      )}
    </section>
  );
}
