import { useState } from "react";
import { api } from "../api/client";
import { useEdits, useFindings, useRehearsal } from "../api/queries";
import type { Finding, ShotReply } from "../api/types.gen";
import { Button } from "../fields/controls";
import { clock } from "../state/clock";
import { useProgress } from "../state/progress";
import { useEvidence } from "../state/evidence";
import { useOutput, useSettings } from "../state/settings";
import { goTo, select, useUi } from "../state/ui";
import { EvidenceLines } from "../views/EvidenceLines";
import { Meters } from "./Meters";
import { Rehearsal } from "./Rehearsal";
import { Section } from "./Section";

const colours: Record<string, string> = { blocks: "bg-coral", look: "bg-brass", note: "bg-quiet" };

const order = ["blocks", "look", "note"];

const weights: Record<string, string> = {
  blocks: "blocks",
  look: "look",
  note: "accepted",
};

const frames = ([from, to]: [number, number]) =>
  from === to ? `frame ${Number(from.toFixed(1))}` : `frames ${from} to ${to}`;

const number = (f: Finding) =>
  f.value === 0 ? "" : `${Number(f.value.toPrecision(3)).toLocaleString("en")} ${f.unit}`;

/** What would ruin a render, before the first frame of it. */
export function CheckList({ shot }: { shot: ShotReply }) {
  const found = useFindings(shot);
  const share = useProgress((s) => s.check);
  const rehearsed = useRehearsal(shot.id);
  const pictures = rehearsed?.version === shot.version ? rehearsed.findings : [];
  const output = useOutput(shot, useSettings(shot)[0])?.findings ?? [];
  const list = [...found.list, ...pictures, ...output].sort(
    (a, b) => order.indexOf(a.weight) - order.indexOf(b.weight),
  );
  const shown = list.find((f) => f.kind === "seam" && f.weight === "blocks"); // with its pictures
  const closed = shot.moves.filter((c) => c.closes && c.words);
  const name = (id: string) => shot.document.parts.find((p) => p.id === id)?.name;
  return (
    <>
      <Section title={shot.loop.closes ? "Proved" : "Not proved"}>
        <p className={shot.loop.closes ? "text-fern" : "text-coral"}>{shot.loop.words}</p>
        {found.shorter > 0 && (
          <p className="mt-1 text-quiet">
            Frames 0 to {found.shorter - 1} show all that it shows: {found.shorter} frames are as good as{" "}
            {shot.document.frames}.
          </p>
        )}
        {found.looking && (
          <p className="mt-1 text-quiet" role="status">
            Looking at the shot
            {share && share.id === shot.id && share.version === shot.version
              ? `: ${Math.round(share.share * 100)} %`
              : "…"}
          </p>
        )}
        {found.failed && !found.looking && <p className="mt-1 text-coral">{found.failed}</p>}
        {list.length === 0 && !found.looking && !found.failed && (
          <p className="mt-1 text-quiet">
            Nothing else was found: everything stays inside the margins, and no file is missing.
          </p>
        )}
      </Section>
      {list.map((f, i) => {
        const like = (o: Finding) => o.kind === f.kind && o.parts.join() === f.parts.join();
        const before = list.slice(0, i).filter(like).length;
        return <Found key={`${f.kind} ${f.parts.join()} ${before}`} shot={shot} f={f} seam={f === shown} />;
      })}
      <Rehearsal shot={shot} />
      <Meters shot={shot} />
      {closed.length > 0 && (
        <Section title="Moves that close by themselves" note={closed.length}>
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

/** One thing that was found: what, where, how bad, why it matters, and what mends it. */
function Found({ shot, f, seam }: { shot: ShotReply; f: Finding; seam: boolean }) {
  const { edit } = useEdits();
  const [reason, setReason] = useState<string | null>(null);
  const there = f.parts.filter((id) => shot.document.parts.some((p) => p.id === id));
  const accept = (undo: boolean) =>
    void edit({
      accept: {
        kind: f.kind,
        parts: f.parts,
        value: f.value,
        reason: reason ?? "",
        ...(undo ? { undo } : {}),
      },
    }).then(() => setReason(null));
  const { width, height } = shot.document.format;
  const where = [f.frames && frames(f.frames as [number, number]), number(f)].filter(Boolean).join(" · ");
  return (
    <Section
      title={
        <span className="flex items-center gap-2">
          <span className={`size-2 shrink-0 rounded-full ${colours[f.weight]}`} /> {f.title}
        </span>
      }
      note={weights[f.weight]}
    >
      {where && <p className="font-mono text-[11px]">{where}</p>}
      <p className="text-quiet">{f.why}</p>
      {seam && (
        <div className="mt-2 grid grid-cols-3 gap-1" aria-label="The seam">
          {(
            [
              ["last", `frame ${shot.document.frames - 1}`],
              ["end", `where frame ${shot.document.frames} would be`],
              ["first", "frame 0"],
            ] as const
          ).map(([at, words]) => (
            <figure key={at}>
              <div className="relative border border-line bg-ground">
                <img
                  src={api.seam(shot.id, shot.version, at)}
                  alt={`The picture, ${words}`}
                  className="w-full"
                  style={{ aspectRatio: `${width} / ${height}` }}
                  loading="lazy"
                />
                <svg
                  className="absolute inset-0 size-full"
                  viewBox={`0 0 100 ${(100 * height) / width}`}
                  aria-hidden
                >
                  <EvidenceLines lines={f.lines ?? []} width={100} height={(100 * height) / width} />
                </svg>
              </div>
              <figcaption className="mt-0.5 text-[10px] leading-tight text-quiet">{words}</figcaption>
            </figure>
          ))}
        </div>
      )}
      {f.weight === "note" && <p className="mt-1 italic">{f.accepted || "No reason was given."}</p>}
      <div className="mt-2 flex flex-wrap gap-1.5">
        {f.weight !== "note" &&
          f.mends.map((m, k) => (
            <Button key={m.words} wraps primary={k === 0} onClick={() => void edit(...m.edits)}>
              {m.words}
            </Button>
          ))}
        {f.kind === "output" && <Button onClick={() => goTo("Render")}>To its settings</Button>}
        {(there.length > 0 || f.frames) && (
          <Button
            title="Its part and its frame"
            onClick={() => {
              if (there[0]) select(there[0]);
              if (f.kind === "clearance" && there[1]) useUi.setState({ against: there[1] });
              if (f.frames) {
                clock.play(0);
                clock.seek(Math.round(f.worst ?? f.frames[0]!) % shot.document.frames);
              }
              useEvidence.setState({ finding: { lines: f.lines ?? [], frame: clock.frame } });
            }}
          >
            Show
          </Button>
        )}
        {f.weight === "note" ? (
          <Button onClick={() => accept(true)}>Look at it again</Button>
        ) : reason === null && f.kind !== "output" ? (
          <Button
            title="It stays as it is, with a reason that goes along to run.json; it comes back when it gets worse by a tenth"
            onClick={() => setReason("")}
          >
            Accept…
          </Button>
        ) : null}
      </div>
      {reason !== null && (
        <form
          className="mt-2 flex gap-1.5"
          onSubmit={(e) => {
            e.preventDefault();
            accept(false);
          }}
        >
          <input
            autoFocus
            aria-label="Why it stays"
            placeholder="Why it stays"
            className="h-[26px] min-w-0 flex-1 rounded-sm border border-line bg-raised px-2"
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            onKeyDown={(e) => e.key === "Escape" && setReason(null)}
          />
          <Button primary onClick={() => accept(false)}>
            Accept
          </Button>
        </form>
      )}
    </Section>
  );
}
