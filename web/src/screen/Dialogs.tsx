import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { useState } from "react";
import { useKinds } from "../api/kinds";
import { useEdits } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { useUi } from "../state/ui";
import { QuestionDialog } from "./ask";
import { ImportProgress } from "./BringIn";
import { findable, found } from "./finding";
import { HistoryWindow } from "./HistoryWindow";
import { commands, type Command } from "./keys";
import { close, Window } from "./Window";
import { WorkersWindow } from "./WorkersWindow";

export function Dialogs({ shot }: { shot: ShotReply | undefined }) {
  const dialog = useUi((s) => s.dialog);
  return (
    <>
      <ImportProgress />
      <QuestionDialog />
      {dialog === "keys" && <Keys />}
      {dialog === "commands" && <Commands shot={shot} />}
      {dialog === "workers" && <WorkersWindow />}
      {dialog === "history" && shot && <HistoryWindow shot={shot} />}
    </>
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

/** No more than these are listed: what is not among them wants another word. */
const mostFound = 60;

function Commands({ shot }: { shot: ShotReply | undefined }) {
  const edits = useEdits();
  const kinds = useKinds();
  const [query, setQuery] = useState("");
  const list = commands(edits);
  const all = found(query.trim() ? [...list, ...findable(shot, kinds, edits)] : list, query, mostFound);
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
          placeholder="A command, shape, move, light, material or part"
          className="h-[30px] rounded-md border border-line bg-ground px-2"
          onChange={(e) => setQuery(e.target.value)}
        />
        <ComboboxOptions static className="mt-2 min-h-0 overflow-auto">
          {all.map((c) => (
            <ComboboxOption
              key={c.name}
              value={c}
              className="flex h-[28px] cursor-pointer items-center justify-between rounded-sm px-2 data-focus:bg-verdigris/20"
            >
              {c.name} <Cap keys={c.keys} />
            </ComboboxOption>
          ))}
          {all.length === 0 && <p className="px-2 text-quiet">Nothing has that in its name.</p>}
        </ComboboxOptions>
      </Combobox>
    </Window>
  );
}
