import {
  Combobox,
  ComboboxInput,
  ComboboxOption,
  ComboboxOptions,
  Dialog,
  DialogPanel,
  DialogTitle,
} from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { api } from "../api/client";
import { keys, useEdits } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { useUi } from "../state/ui";
import { QuestionDialog } from "./ask";
import { ImportProgress } from "./BringIn";
import { commands, type Command } from "./keys";

const close = () => useUi.setState({ dialog: null });

export function Dialogs({ shot }: { shot: ShotReply | undefined }) {
  const dialog = useUi((s) => s.dialog);
  return (
    <>
      <ImportProgress />
      <QuestionDialog />
      {dialog === "keys" && <Keys />}
      {dialog === "commands" && <Commands />}
      {dialog === "history" && shot && <HistoryList shot={shot} />}
    </>
  );
}

function Window({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Dialog open onClose={close} className="relative z-40">
      <div className="fixed inset-0 flex items-start justify-center bg-black/45 pt-[12vh]">
        <DialogPanel className="flex max-h-[70vh] w-[440px] flex-col rounded-lg border border-line bg-panel p-4 shadow-2xl">
          <DialogTitle className="mb-2 font-semibold">{title}</DialogTitle>
          {children}
        </DialogPanel>
      </div>
    </Dialog>
  );
}

function Cap({ keys }: { keys: string }) {
  return (
    <span className="flex gap-1">
      {keys
        .split(" ")
        .filter(Boolean)
        .map((k) => (
          <kbd key={k} className="rounded-sm border border-line bg-ground px-1.5 font-mono text-[11px]">
            {k}
          </kbd>
        ))}
    </span>
  );
}

function Keys() {
  const edits = useEdits();
  return (
    <Window title="Keys">
      <dl className="grid min-h-0 grid-cols-[1fr_auto] gap-x-4 gap-y-1 overflow-auto">
        {commands(edits)
          .filter((c) => c.keys)
          .map((c) => (
            <div key={c.name} className="contents">
              <dt>{c.name}</dt>
              <dd>
                <Cap keys={c.keys} />
              </dd>
            </div>
          ))}
      </dl>
      <p className="mt-3 text-[11px] text-quiet">
        In number fields: arithmetic and units (48+16, 1/3 turn, 2 s, 12 mm), ↑ and ↓ step, with Shift by ten
        times, with Alt by a tenth. Drag a label to scrub.
      </p>
    </Window>
  );
}

function Commands() {
  const edits = useEdits();
  const [query, setQuery] = useState("");
  const words = query.toLowerCase().split(/\s+/);
  const found = commands(edits).filter((c) => words.every((w) => c.name.toLowerCase().includes(w)));
  const run = (c: Command | null) => {
    if (!c) return;
    close();
    c.run();
  };
  return (
    <Window title="Find a command">
      <Combobox onChange={run} immediate>
        <ComboboxInput
          autoFocus
          aria-label="Command"
          placeholder="Type a part of its name"
          className="h-[30px] rounded-md border border-line bg-ground px-2"
          onChange={(e) => setQuery(e.target.value)}
        />
        <ComboboxOptions static className="mt-2 min-h-0 overflow-auto">
          {found.map((c) => (
            <ComboboxOption
              key={c.name}
              value={c}
              className="flex h-[28px] cursor-pointer items-center justify-between rounded-sm px-2 data-focus:bg-verdigris/20"
            >
              {c.name} <Cap keys={c.keys} />
            </ComboboxOption>
          ))}
          {found.length === 0 && <p className="px-2 text-quiet">No command has that in its name.</p>}
        </ComboboxOptions>
      </Combobox>
    </Window>
  );
}

function HistoryList({ shot }: { shot: ShotReply }) {
  const { restore } = useEdits();
  const list = useQuery({
    queryKey: keys.history(shot.id, shot.version),
    queryFn: () => api.history(shot.id),
  }).data;
  return (
    <Window title={`History of ${shot.document.name}`}>
      <p className="mb-2 text-[11px] text-quiet">
        Every edit is kept. Going back loses nothing: what came after stays in the list.
      </p>
      <ol className="min-h-0 overflow-auto">
        {list?.map((r) => (
          <li key={r.number}>
            <button
              type="button"
              aria-current={r.shown}
              onClick={() => void restore(r.number)}
              className={`flex h-[28px] w-full items-center gap-3 rounded-sm px-2 text-left hover:bg-raised ${r.shown ? "bg-verdigris/20" : ""}`}
            >
              <span className="w-8 text-right font-mono text-[11px] text-quiet">{r.number}</span>
              <span className="flex-1 truncate">{r.words}</span>
              <span className="text-[11px] text-quiet">
                {new Date(r.made).toLocaleTimeString([], {
                  hour: "2-digit",
                  minute: "2-digit",
                  hourCycle: "h23",
                })}
              </span>
            </button>
          </li>
        ))}
      </ol>
    </Window>
  );
}
