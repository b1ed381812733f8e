import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { Plus } from "lucide-react";
import { useEffect, useRef } from "react";
import { newId } from "../api/ids";
import { useEdits } from "../api/queries";
import type { Move, Part, ShotReply } from "../api/types.gen";
import { itemClass, listClass, Pick } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { select, useUi } from "../state/ui";
import { MoveSentence } from "./MoveSentence";
import { Coming, Section } from "./Sheet";

/** The moves of the selected part, or of all parts that have some. */
export function MoveSheet({ shot }: { shot: ShotReply }) {
  const id = useUi((s) => s.selected);
  const parts = shot.document.parts;
  const part = parts.find((p) => p.id === id);
  const moving = parts.filter((p) => p.moves.length > 0 && p.id !== id);
  return (
    <>
      {part && <Stack shot={shot} part={part} adding />}
      {moving.map((p) => (
        <Stack key={p.id} shot={shot} part={p} adding={!part && moving.length === 1} />
      ))}
      {!part && moving.length === 0 && (
        <Section title="Move">
          <p className="text-quiet">Nothing moves yet. Select a part and press M to add a move to it.</p>
        </Section>
      )}
      <Length shot={shot} />
      <Coming>Orbits, swings, rolls, gears and the other moves, pins and curves are going to be here.</Coming>
    </>
  );
}

function Stack({ shot, part, adding }: { shot: ShotReply; part: Part; adding?: boolean }) {
  const up = shot.document.parts.find((p) => p.id === part.parent);
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
      {part.moves.length === 0 && <p className="text-quiet">It has no move of its own.</p>}
      {part.moves.map((m) => (
        <MoveSentence key={m.id} shot={shot} part={part} move={m} />
      ))}
    </Section>
  );
}

function AddMove({ part, shot }: { part: Part; shot: ShotReply }) {
  const { edit } = useEdits();
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    const open = () => button.current?.click();
    addEventListener("perigyre:moves", open);
    return () => removeEventListener("perigyre:moves", open);
  }, []);
  const n = shot.document.frames;
  const add = (m: Omit<Move, "id" | "muted">) =>
    void edit({ addMove: { part: part.id, move: { id: newId(), muted: false, ...m } } });
  const turntable = part.kind === "group" && !part.moves.some((m) => m.kind === "turntable");
  return (
    <Menu>
      <MenuButton
        ref={button}
        className="flex items-center gap-1 rounded-sm border border-line px-1.5 py-0.5 hover:bg-raised"
      >
        <Plus size={11} /> <kbd className="font-mono text-[10px]">M</kbd> adds a move
      </MenuButton>
      <MenuItems anchor="bottom end" className={listClass}>
        {turntable && (
          <MenuItem>
            <button
              type="button"
              className={itemClass + " w-full"}
              onClick={() =>
                add({
                  kind: "turntable",
                  turntable: { moves: "object", direction: "clockwise", turns: 1, plinth: true },
                })
              }
            >
              Turntable{" "}
              <span className="ml-auto pl-4 text-[11px] text-quiet">whole turns, closes by itself</span>
            </button>
          </MenuItem>
        )}
        <MenuItem>
          <button
            type="button"
            className={itemClass + " w-full"}
            onClick={() =>
              add({
                kind: "turn",
                turn: {
                  axis: [0, 1, 0],
                  frame: "own",
                  turns: 1,
                  direction: "clockwise",
                  span: null,
                  pace: { kind: "constant" },
                  after: "stays",
                },
              })
            }
          >
            Turn <span className="ml-auto pl-4 text-[11px] text-quiet">about an axis</span>
          </button>
        </MenuItem>
        <MenuItem>
          <button
            type="button"
            className={itemClass + " w-full"}
            onClick={() =>
              add({
                kind: "float",
                float: { height: floatHeight(shot), period: n % 2 === 0 ? n / 2 : n, tilt: 0 },
              })
            }
          >
            Float <span className="ml-auto pl-4 text-[11px] text-quiet">gently up and down</span>
          </button>
        </MenuItem>
      </MenuItems>
    </Menu>
  );
}

/** A float's first height: a round number near a thirtieth of the set's size. */
function floatHeight(shot: ShotReply): number {
  const plinth = shot.document.parts.find((p) => p.plinth)?.plinth;
  const size = (plinth?.radius ?? 0.1) / 12;
  const step = Math.pow(10, Math.floor(Math.log10(size)));
  return Math.max(1, Math.round(size / step)) * step;
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

/** The length, rate and ending of the whole shot. */
function Length({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const { frames, rate, ending } = shot.document;
  const set = (change: Partial<{ frames: number; rate: typeof rate; ending: string }>) =>
    void edit({ setTiming: { frames, rate, ending, ...change } });
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
            set({ rate: { num, den } });
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
      <p className="text-[11px] text-quiet">
        {ending === "loop"
          ? `Frames 0 to ${frames - 1} are rendered; frame ${frames} is frame 0 again and does not exist.`
          : `Frames 0 to ${frames - 1} are rendered; moves reach their end on the last one.`}
      </p>
    </Section>
  );
}
