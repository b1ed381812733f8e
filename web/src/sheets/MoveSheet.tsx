import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { Plus } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { takeApart, usePlanning } from "../api/apart";
import { useKinds } from "../api/kinds";
import { useEdits, useSuiting } from "../api/queries";
import type { Move, Part, ShotReply } from "../api/types.gen";
import { Button, itemClass, listClass, Pick } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { useRange } from "../state/clock";
import { movesAsked } from "../state/signals";
import { select, useUi } from "../state/ui";
import { Alike, alikes } from "./alike";
import { PinsFields } from "./PinsFields";
import { MoveSentence } from "./MoveSentence";
import { Planning } from "./PlanList";
import { Section } from "./Section";

/** The moves of the selected part, or of all parts that have some. */
export function MoveSheet({ shot }: { shot: ShotReply }) {
  const id = useUi((s) => s.selected);
  const chosen = useUi((s) => s.chosen);
  const parts = shot.document.parts;
  const several = parts.filter((p) => chosen.includes(p.id));
  const part = parts.find((p) => p.id === id);
  const moving = parts.filter((p) => (p.moves.length > 0 || (p.tracks ?? []).length > 0) && p.id !== id);
  if (several.length > 1)
    return (
      <>
        <Several shot={shot} parts={several} />
        <PinsFields
          key={several.at(-1)!.id}
          shot={shot}
          part={several.at(-1)!}
          others={several.slice(0, -1)}
        />
        <Length shot={shot} />
      </>
    );
  return (
    <>
      {part && <Stack shot={shot} part={part} adding />}
      {part && <PinsFields key={part.id} shot={shot} part={part} />}
      {part && <Ratios shot={shot} part={part} />}
      {moving.map((p) => (
        <Stack key={p.id} shot={shot} part={p} adding={!part && moving.length === 1} />
      ))}
      {!part && moving.length > 0 && (
        <Section title="Everything">
          <Strip shot={shot} parts={parts.filter((p) => p.parent === "")} />
        </Section>
      )}
      {!part && moving.length === 0 && (
        <Section title="Move">
          <p className="text-quiet">Nothing moves yet. Select a part and press M to add a move to it.</p>
        </Section>
      )}
      <Length shot={shot} />
    </>
  );
}

function Stack({ shot, part, adding }: { shot: ShotReply; part: Part; adding?: boolean }) {
  const up = shot.document.parts.find((p) => p.id === part.parent);
  const planning = usePlanning((s) => s.part) === part.id;
  return (
    <Section
      title={
        <>
          <button type="button" className="hover:underline" onClick={() => select(part.id)}>
            {part.name}
          </button>
          {up && <span className="font-normal text-quiet"> in {up.name}</span>}
        </>
      }
      note={adding ? <AddMove part={part} shot={shot} /> : undefined}
    >
      {planning && !part.moves.some((m) => m.kind === "take apart") && <Planning shot={shot.id} />}
      {part.moves.length === 0 && !part.tracks?.length && (
        <p className="text-quiet">It has no move of its own.</p>
      )}
      {!adding && (part.tracks ?? []).length > 0 && (
        <p className="text-heather">
          {part.tracks!.reduce((n, t) => n + t.pins.length, 0)} pins of{" "}
          {part.tracks!.map((t) => t.value).join(", ")}
        </p>
      )}
      {part.moves.map((m) => (
        <MoveSentence key={m.id} shot={shot} part={part} move={m} />
      ))}
      {adding && <Strip shot={shot} parts={[part]} />}
    </Section>
  );
}

/** The moves of several parts: those that are alike are one sentence. */
function Several({ shot, parts }: { shot: ShotReply; parts: Part[] }) {
  const groups = useMemo(() => alikes(parts), [parts]);
  const alike = useMemo(() => new Map(groups.map((g) => [g.move.id, g.others.map((m) => m.id)])), [groups]);
  return (
    <Section title={`${parts.length} parts`} note={<AddMove part={parts.at(-1)!} shot={shot} />}>
      {groups.length === 0 && <p className="text-quiet">None of them has a move of its own.</p>}
      <Alike.Provider value={alike}>
        {groups.map(({ part, move, others }) => (
          <div key={move.id}>
            <MoveSentence shot={shot} part={part} move={move} />
            <p className="pb-1 text-[11px] text-quiet">{sharing(shot, parts.length, move, others)}</p>
          </div>
        ))}
      </Alike.Provider>
      <Strip shot={shot} parts={parts} />
    </Section>
  );
}

/** How many of the selected parts have a move, and what differs between theirs. */
function sharing(shot: ShotReply, of: number, move: Move, others: Move[]): string {
  const said = (m: Move) => {
    const { span, pace, laps, after, muted } = m;
    const values = shot.moves.find((r) => r.move === m.id)?.values ?? {};
    return { ...values, span, pace, laps, after, muted } as Record<string, unknown>;
  };
  const first = said(move);
  const differ = Object.keys(first).filter((k) =>
    others.some((o) => JSON.stringify(said(o)[k]) !== JSON.stringify(first[k])),
  );
  const who = others.length + 1 === of ? `All ${of} have it` : `${others.length + 1} of ${of} have it`;
  if (others.length === 0) return `${who}.`;
  return differ.length > 0
    ? `${who}, mixed in ${differ.join(", ")}; what is set here is set for all of them.`
    : `${who}, alike; what is set here is set for all of them.`;
}

/** Takes all motion from parts and from all in them, where there is more of it than one move. */
function Strip({ shot, parts }: { shot: ShotReply; parts: Part[] }) {
  const { edit } = useEdits();
  const inside = new Set(parts.map((p) => p.id));
  for (const p of shot.document.parts) if (inside.has(p.parent)) inside.add(p.id);
  const all = shot.document.parts.filter((p) => inside.has(p.id));
  const moves = all.reduce((n, p) => n + p.moves.length, 0);
  const pinned = all.filter((p) => p.tracks?.length).length;
  if (moves + pinned < 2 && parts.length < 2) return null;
  const words = [
    moves > 0 && `${moves} ${moves === 1 ? "move" : "moves"}`,
    pinned > 0 && `the pins of ${pinned} ${pinned === 1 ? "part" : "parts"}`,
  ];
  return (
    <div className="mt-2 border-t border-line pt-2">
      <Button
        title={`Removes ${words.filter(Boolean).join(" and ")}, of what is in it too`}
        onClick={() => void edit({ strip: { parts: parts.map((p) => p.id) } })}
      >
        Remove all motion
      </Button>
    </div>
  );
}

function AddMove({ part, shot }: { part: Part; shot: ShotReply }) {
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    return movesAsked.hear(() => button.current?.click());
  }, []);
  return (
    <Menu>
      <MenuButton
        ref={button}
        className="flex items-center gap-1 rounded-sm border border-line px-1.5 py-0.5 hover:bg-raised"
      >
        <Plus size={11} /> <kbd className="font-mono text-[10px]">M</kbd> adds a move
      </MenuButton>
      <MenuItems anchor="bottom end" className={listClass + " max-h-[70vh] overflow-auto"}>
        <Suiting shot={shot} part={part} />
      </MenuItems>
    </Menu>
  );
}

/** The moves and combinations that the core finds to suit what is selected. */
function Suiting({ part, shot }: { part: Part; shot: ShotReply }) {
  const { edit } = useEdits();
  const kinds = useKinds()?.moves ?? [];
  const chosen = useUi((s) => s.chosen);
  const parts = chosen.includes(part.id) ? chosen : [part.id];
  const suiting = useSuiting(shot, parts, true);
  if (!suiting) return <p className="px-2 py-1 text-quiet">Measuring the part…</p>;
  return (
    <>
      <p className="px-2 pt-1 text-[11px] text-quiet">Moves</p>
      {kinds
        .filter((k) => suiting.kinds.includes(k.kind) || (k.kind === "take apart" && part.kind === "group"))
        .map((k) => (
          <MenuItem key={k.kind}>
            <button
              type="button"
              className={itemClass + " w-full"}
              onClick={() =>
                void (k.kind === "take apart"
                  ? takeApart(shot, part.id, edit)
                  : edit(...parts.map((id) => ({ addMove: { part: id, kind: k.kind } }))))
              }
            >
              {k.name} <span className="ml-auto pl-4 text-[11px] text-quiet">{k.note}</span>
            </button>
          </MenuItem>
        ))}
      {(part.mesh ?? part.shape ?? part.kind === "group") && (
        <MenuItem>
          <button
            type="button"
            className={itemClass + " w-full"}
            onClick={() => void edit(...parts.map((id) => ({ findHinges: { part: id } })))}
          >
            Unfold along its edges{" "}
            <span className="ml-auto pl-4 text-[11px] text-quiet">
              {part.kind === "group" ? "hinges are found" : "it is split into its flat sides"}
            </span>
          </button>
        </MenuItem>
      )}
      {suiting.combinations.length > 0 && (
        <p className="mt-1 border-t border-line px-2 pt-1.5 text-[11px] text-quiet">Combinations</p>
      )}
      {suiting.combinations.map((c) => (
        <MenuItem key={c.name}>
          <button
            type="button"
            className={itemClass + " w-full"}
            onClick={() => void edit({ combine: { name: c.name, parts } })}
          >
            {c.name} <span className="ml-auto pl-4 text-[11px] text-quiet">{c.note}</span>
          </button>
        </MenuItem>
      ))}
    </>
  );
}

const rates = [
  { value: "24/1", name: "24" },
  { value: "25/1", name: "25" },
  { value: "30/1", name: "30" },
  { value: "50/1", name: "50" },
  { value: "60/1", name: "60" },
  { value: "24000/1001", name: "23.976" },
  { value: "30000/1001", name: "29.97" },
];

/** Whole numbers of frames that moves and pins take, which the shot could be as long as. */
function periods(shot: ShotReply): { frames: number; name: string }[] {
  const out = new Map<number, string>();
  const add = (frames: number, name: string) => {
    const f = Math.round(frames);
    if (f >= 2 && Math.abs(f - frames) < 1e-6 && !out.has(f) && out.size < 12) out.set(f, name);
  };
  const bars = new Map(shot.moves.map((m) => [m.move, m.bar]));
  for (const p of shot.document.parts) {
    const times = (p.tracks ?? []).flatMap((t) => t.pins.map((q) => q.time));
    if (times.length > 1) add(Math.max(...times) - Math.min(...times), `the pins of ${p.name}`);
    for (const m of p.moves) {
      const [from, to] = bars.get(m.id)?.spans[0] ?? [0, 0];
      add(to - from, `${m.kind} of ${p.name}`);
    }
  }
  return [...out].map(([frames, name]) => ({ frames, name }));
}

/** The length, rate and ending of the whole shot. */
function Length({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const [keep, setKeep] = useState<"frames" | "seconds">("frames");
  const selected = useUi((s) => s.selected);
  const part = shot.document.parts.find(
    (p) => p.id === selected && p.moves.length + (p.tracks?.length ?? 0) > 0,
  );
  const { frames, rate, ending } = shot.document;
  const range = useRange();
  const [about, setAbout] = useState<number | null>(null);
  const lengths = periods(shot).filter((l) => l.frames !== frames);
  const set = (change: Partial<{ frames: number; rate: typeof rate; ending: string }>) =>
    void edit({ setTiming: change });
  const now = `${rate.num}/${rate.den}`;
  const choices = rates.some((r) => r.value === now)
    ? rates
    : [...rates, { value: now, name: (rate.num / rate.den).toFixed(3) }];
  return (
    <Section title="The whole shot" note={`${((frames * rate.den) / rate.num).toFixed(2)} s`}>
      <p className="text-[13px] leading-7">
        It lasts{" "}
        <NumberField
          inline
          label="Length of the shot"
          value={frames}
          kind="time"
          unit="f"
          digits={0}
          whole
          min={1}
          max={100000}
          onChange={(v) => set({ frames: Math.round(v) })}
        />{" "}
        at{" "}
        <Pick
          inline
          label="Rate"
          value={now}
          choices={choices}
          onChange={(v) => {
            const [num, den] = v.split("/").map(Number) as [number, number];
            if (keep === "seconds")
              void edit({ retime: { frames: 0, rate: { num, den }, keepSeconds: true } });
            else set({ rate: { num, den } });
          }}
        />{" "}
        frames a second, and{" "}
        <Pick
          inline
          label="Ending"
          value={ending}
          choices={[
            { value: "loop", name: "loops" },
            { value: "once", name: "plays once" },
          ]}
          onChange={(v) => set({ ending: v })}
        />
        .
      </p>
      <p className="text-[13px] leading-7">
        Stretch everything to{" "}
        <NumberField
          inline
          label="Stretch everything to"
          value={frames}
          kind="time"
          unit="f"
          digits={0}
          whole
          min={1}
          max={100000}
          onChange={(v) => void edit({ retime: { frames: Math.round(v), rate, keepSeconds: false } })}
        />
        , or shift {part ? part.name : "everything"} by{" "}
        <NumberField
          inline
          label="Shift by"
          value={0}
          kind="time"
          unit="f"
          digits={2}
          onChange={(v) => v !== 0 && void edit({ shift: { parts: part ? [part.id] : [], frames: v } })}
        />
        , or{" "}
        <button
          type="button"
          className="stitched font-semibold"
          onClick={() => void edit({ reverse: { parts: part ? [part.id] : [] } })}
        >
          reverse {part ? part.name : "everything"}
        </button>
        {range && (
          <>
            , or stretch frames {range[0]} to {range[1] + 1} of {part ? part.name : "everything"} about{" "}
            <NumberField
              inline
              label="Stretch about"
              value={about ?? range[0]}
              kind="time"
              unit="f"
              digits={2}
              onChange={setAbout}
            />{" "}
            to{" "}
            <NumberField
              inline
              label="Stretch the range to"
              value={100}
              kind="percent"
              unit="%"
              digits={2}
              min={1}
              max={10000}
              onChange={(v) =>
                void edit({
                  stretch: {
                    parts: part ? [part.id] : [],
                    from: range[0],
                    to: range[1] + 1,
                    about: about ?? range[0],
                    scale: v / 100,
                  },
                })
              }
            />
          </>
        )}
        {lengths.length > 0 && (
          <>
            , or make it as long as{" "}
            <Pick
              inline
              label="As long as"
              value={0}
              choices={[
                { value: 0, name: "a move" },
                ...lengths.map((l) => ({ value: l.frames, name: l.name, note: `${l.frames} f` })),
              ]}
              onChange={(v) => v > 0 && set({ frames: v })}
            />
          </>
        )}
        . Another rate keeps the{" "}
        <Pick
          inline
          label="Another rate keeps"
          value={keep}
          choices={[
            { value: "frames", name: "frames" },
            { value: "seconds", name: "seconds" },
          ]}
          onChange={setKeep}
        />
        .
      </p>
      <p className="text-[11px] text-quiet">
        {ending === "loop"
          ? `Frames 0 to ${frames - 1} are rendered; frame ${frames} is frame 0 again and does not exist.`
          : `Frames 0 to ${frames - 1} are rendered; moves reach their end on the last one.`}
      </p>
    </Section>
  );
}

/** All that a part drives, with the ratios. */
function Ratios({ shot, part }: { shot: ShotReply; part: Part }) {
  const { edit } = useEdits();
  const driven = shot.document.parts.flatMap((p) =>
    p.moves.filter((m) => m.gear?.driver === part.id).map((move) => ({ p, move })),
  );
  const turns = shot.shown[shot.document.parts.indexOf(part)]?.turns ?? 0;
  if (driven.length === 0) return null;
  const side = (name: string, move: Move, value: "num" | "den") => (
    <NumberField
      inline
      label={`${value === "num" ? "Teeth" : "Own teeth"}, ${name}`}
      value={move.gear![value]}
      kind="number"
      digits={4}
      min={1e-6}
      max={1e6}
      onChange={(v) => void edit({ setMove: { move: move.id, values: { [value]: v } } })}
    />
  );
  return (
    <Section title={`Driven by ${part.name}`} note={driven.length}>
      {driven.map(({ p, move }) => (
        <div key={move.id} className="flex items-baseline gap-1.5">
          <button
            type="button"
            className="min-w-0 flex-1 truncate text-left hover:underline"
            onClick={() => select(p.id)}
          >
            {p.name}
          </button>
          {side(p.name, move, "num")} to {side(p.name, move, "den")}
        </div>
      ))}
      {turns > 0 && (
        <p className="mt-1 text-quiet">
          All that it drives, and what that drives, has come round after {turns.toLocaleString("en")}{" "}
          {turns === 1 ? "turn" : "turns"} of it.
        </p>
      )}
    </Section>
  );
}
