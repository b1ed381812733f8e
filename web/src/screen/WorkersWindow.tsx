import { useQuery } from "@tanstack/react-query";
import { Copy } from "lucide-react";
import { useState } from "react";
import { api } from "../api/client";
import { client, keys } from "../api/queries";
import type { Member, WorkersReply } from "../api/types.gen";
import { Button } from "../fields/controls";
import { duration } from "../fields/duration";
import { say } from "../state/notices";
import { Window } from "./Window";

const colours: Record<string, string> = {
  drawing: "text-verdigris",
  refused: "text-coral",
  away: "text-coral",
};

/** The machines that render, how another one joins, and what is wished of each. */
export function WorkersWindow() {
  const all = useQuery({ queryKey: keys.workers, queryFn: api.workers, refetchInterval: 1000 }).data;
  const take = async (answer: Promise<WorkersReply>) => {
    try {
      client.setQueryData(keys.workers, await answer);
    } catch (e) {
      say((e as Error).message);
    }
  };
  return (
    <Window title="Workers" wide={all?.open ? "most" : true}>
      {all && !all.open && <Closed />}
      {all?.open && (
        <>
          <Joining all={all} />
          <div className="mt-3 min-h-0 overflow-auto">
            <table className="w-full table-fixed text-left" aria-label="Workers">
              <thead className="text-[11px] text-quiet">
                <tr className="border-b border-line">
                  <th className="py-1 font-normal">Machine</th>
                  <th className="w-[232px] font-normal">Does</th>
                  <th
                    className="w-[62px] text-right font-normal"
                    title="As a multiple of this machine's, by the last frames that both have drawn, and before that by the reference picture"
                  >
                    Speed
                  </th>
                  <th
                    className="w-[52px] text-right font-normal"
                    title="Frames, and strips of large ones, that were used"
                  >
                    Done
                  </th>
                  <th className="w-[84px] text-right font-normal">Last seen</th>
                  <th className="w-[150px]" />
                </tr>
              </thead>
              <tbody>
                {all.members.map((m) => (
                  <Row key={m.id} m={m} take={(a) => void take(a)} />
                ))}
              </tbody>
            </table>
          </div>
          <p className="mt-2 border-t border-line pt-2 text-[11px] text-quiet">
            {all.working} of {all.members.length}{" "}
            {all.members.length === 1 ? "machine renders" : "machines render"}
            {all.speed > 0 && `, ${all.speed.toFixed(1)} times as fast as this machine alone`}. A machine
            draws a reference picture when it joins and now and then: only while that is the same to the bit
            is what it draws used.
          </p>
        </>
      )}
    </Window>
  );
}

const number = "py-1 text-right font-mono text-[11px] leading-[18px]";

function Row({ m, take }: { m: Member; take: (a: Promise<WorkersReply>) => void }) {
  const wish = (w: string) => take(api.wish(m.id, w));
  const there = m.state !== "away" && m.state !== "refused";
  return (
    <tr className="h-[38px] border-b border-line/60 align-top" data-testid={`worker ${m.name}`}>
      <td className="py-1 pr-2">
        <span className="block truncate" title={m.name}>
          {m.name}
        </span>
        <span className="block truncate text-[11px] text-quiet" title={m.kernel}>
          {m.processors} {m.processors === 1 ? "processor" : "processors"}, {m.kernel.split(",")[0]}
        </span>
      </td>
      <td className="py-1 pr-2">
        <span className={`block truncate ${colours[m.state] ?? ""}`} data-testid="worker-state">
          {m.state === "trying" ? "draws the reference picture" : m.state}
          {m.on && <span className="text-quiet"> {m.on}</span>}
        </span>
        {m.on && there && (
          <span className="mt-1 block h-1 overflow-hidden rounded-full bg-ground">
            <span className="block h-full bg-verdigris" style={{ width: `${m.share * 100}%` }} />
          </span>
        )}
        {m.why && (
          <span className="block text-[11px] whitespace-normal text-coral">
            {m.why.charAt(0).toUpperCase() + m.why.slice(1)}.
          </span>
        )}
        {Math.abs(m.clock) > 30 && there && (
          <span className="block text-[11px] text-quiet">
            its clock is {duration(Math.round(Math.abs(m.clock)))} {m.clock > 0 ? "ahead" : "behind"}; nothing
            depends on it
          </span>
        )}
      </td>
      <td className={number}>{m.speed > 0 ? `${m.speed.toFixed(2)} ×` : "–"}</td>
      <td className={number}>{m.done}</td>
      <td className="py-1 text-right text-[11px] leading-[18px] text-quiet">
        {m.here ? "here" : m.seen < 3 ? "now" : `${duration(m.seen)} ago`}
      </td>
      <td className="py-1 pl-3 text-right text-[11px] whitespace-nowrap">
        {there && m.wish === "work" && (
          <>
            <button
              type="button"
              className="underline"
              title="Takes nothing more, and gives back at once what it draws"
              onClick={() => wish("pause")}
            >
              pause
            </button>
            <button
              type="button"
              className="ml-2.5 underline"
              title="Ends what it draws, and takes nothing more"
              onClick={() => wish("drain")}
            >
              drain
            </button>
          </>
        )}
        {there && m.wish !== "work" && (
          <button type="button" className="underline" onClick={() => wish("work")}>
            let it work
          </button>
        )}
        {!there && (
          <button type="button" className="underline" onClick={() => take(api.forgetWorker(m.id))}>
            forget
          </button>
        )}
      </td>
    </tr>
  );
}

function Joining({ all }: { all: WorkersReply }) {
  const [copied, setCopied] = useState(false);
  return (
    <>
      <p className="mb-1 text-[11px] text-quiet">
        On a machine that is to render too, with the same program, this line makes it join
        {all.apart &&
          ", with the token that the queue has for workers; to a cluster of your own, by an address with its user"}
        {!all.beyond &&
          (all.apart
            ? "; the queue is on this machine, and this address is for workers here"
            : "; it is reached from this machine alone, as it was started")}
        {all.beyond && !all.safe && "; without a certificate what goes to and fro can be read in the network"}
        :
      </p>
      <div className="flex items-center gap-2">
        <code
          className="min-w-0 flex-1 truncate rounded-sm border border-line bg-ground px-2 py-1 font-mono text-[11px]"
          data-testid="join-line"
          title={all.line}
        >
          {all.line}
        </code>
        <Button
          onClick={() =>
            void navigator.clipboard
              .writeText(all.line)
              .then(() => setCopied(true))
              .catch(() => say("The line could not be copied; select it instead."))
          }
        >
          <Copy size={13} /> {copied ? "Copied" : "Copy"}
        </Button>
      </div>
    </>
  );
}

/** How machines are let in, where none are. */
function Closed() {
  return (
    <div className="max-w-[70ch]">
      <p className="mb-2">
        This machine renders alone. Started with <code className="font-mono text-[11px]">--workers</code>, it
        spreads the frames of runs over all machines that join: a night&apos;s render becomes an
        evening&apos;s.
      </p>
      <code className="block rounded-sm border border-line bg-ground px-2 py-1.5 font-mono text-[11px]">
        perigyre serve --workers 0.0.0.0:7742 --workers-token A-SECRET-OF-YOURS
      </code>
      <p className="mt-2 text-[11px] text-quiet">
        This window then has the line that is typed on the others. Nothing is listened to beyond this machine
        unless it is asked for like this.
      </p>
    </div>
  );
}
