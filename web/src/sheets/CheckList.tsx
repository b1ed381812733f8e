import { useEdits } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { Button } from "../fields/controls";
import { clock } from "../state/clock";
import { select } from "../state/ui";
import { Section } from "./Section";

const colours: Record<string, string> = { blocks: "bg-coral", look: "bg-brass", note: "bg-quiet" };

const weights: Record<string, string> = {
  blocks: "mend before rendering",
  look: "worth a look",
  note: "from the import",
};

/** What would ruin a render, before the first frame of it. */
export function CheckList({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const list = shot.findings;
  const closed = shot.moves.filter((c) => c.closes && c.words);
  const name = (id: string) => shot.document.parts.find((p) => p.id === id)?.name;
  return (
    <>
      {list.length === 0 && (
        <Section title="Nothing found">
          <p className="text-fern">
            {shot.loop.words} Everything stays inside the margins, and no file is missing.
          </p>
        </Section>
      )}
      {list.map((f, i) => (
        <Section
          key={i}
          title={
            <span className="flex items-center gap-2">
              <span className={`size-2 shrink-0 rounded-full ${colours[f.weight]}`} /> {f.title}
            </span>
          }
          note={weights[f.weight]}
        >
          <p className="text-quiet">{f.why}</p>
          <div className="mt-2 flex flex-wrap gap-1.5">
            {f.mends.map((m, k) => (
              <Button key={m.words} primary={k === 0} onClick={() => void edit(...m.edits)}>
                {m.words}
              </Button>
            ))}
            {(f.parts.length > 0 || f.frames !== undefined) && (
              <Button
                onClick={() => {
                  if (f.parts[0]) select(f.parts[0]);
                  if (f.frames !== undefined) {
                    clock.play(0);
                    clock.seek(f.frames[0]);
                  }
                }}
              >
                Show
              </Button>
            )}
          </div>
        </Section>
      ))}
      {closed.length > 0 && (
        <Section title="Proved">
          <ul className="space-y-1">
            {closed.map((c) => (
              <li key={c.move} className="flex items-center gap-2">
                <span className="size-2 shrink-0 rounded-full bg-fern" />
                {name(c.part)} {c.words}
              </li>
            ))}
          </ul>
        </Section>
      )}
    </>
  );
}
