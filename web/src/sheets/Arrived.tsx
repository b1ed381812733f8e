import { create } from "zustand";
import { replaceModel } from "../api/client";
import { keys, useEdits, renew } from "../api/queries";
import type { Part, Replaced, Report, ShotReply, Source, Standing } from "../api/types.gen";
import { Pick } from "../fields/controls";
import { lengths } from "../fields/lengths";
import { NumberField } from "../fields/NumberField";
import { Windowed } from "../fields/Windowed";
import { BringInPanel } from "../screen/BringIn";
import { choose, models } from "../screen/files";
import { say } from "../state/notices";
import { choose as chooseParts } from "../state/ui";
import { Section } from "./Section";
import { TextureSection } from "./TextureSection";
import { TriageSection } from "./TriageSection";
import { texturesOf } from "./textureSlots";

/** What arrived with each import. */
export function Arrived({ shot }: { shot: ShotReply }) {
  return (
    <>
      {shot.document.sources.map((s, i) => {
        const r = shot.reports[i];
        return r && <Arrival key={s.root} shot={shot} report={r} source={s} standing={shot.standing[i]!} />;
      })}
      <TextureSection shot={shot} />
      {shot.reports.map((r, i) => (
        <Remarks key={i} shot={shot} report={r} />
      ))}
      <TriageSection shot={shot} />
      <Section title={shot.document.sources.length > 0 ? "Another model" : "A model"}>
        <div className="pt-1">
          <BringInPanel />
        </div>
      </Section>
    </>
  );
}

function Arrival(p: { shot: ShotReply; report: Report; source: Source; standing: Standing }) {
  const { report: r, source, standing } = p;
  const { edit } = useEdits();
  const { unit, root } = source;
  const up = source.up || "y";
  const read = (change: Partial<Source>) => void edit({ setReading: { root, ...change } });
  const size = standing.size;
  const rows: [string, string][] = [
    ["Parts", count(r.parts)],
    ["Triangles", count(r.triangles)],
    ["Vertices", count(r.vertices)],
    ["Materials", count(r.materials)],
    ["Textures", count(r.textures)],
  ];
  return (
    <>
      <Section title={r.file} note={<Newer shot={p.shot} source={source} />}>
        <p className="text-[13px] leading-7">
          One unit of the file is one{" "}
          <Pick
            inline
            label="Unit"
            value={unit}
            choices={[
              { value: "mm", name: "millimetre" },
              { value: "cm", name: "centimetre" },
              { value: "m", name: "metre" },
              { value: "in", name: "inch" },
              { value: "ft", name: "foot" },
            ]}
            onChange={(u) => read({ unit: u })}
          />
          , and{" "}
          <Pick
            inline
            label="Upright axis"
            value={up}
            choices={[
              { value: "y", name: "y is upright" },
              { value: "z", name: "z is upright" },
            ]}
            onChange={(v) => read({ up: v })}
          />
          , so that it is <strong className="font-mono font-normal">{lengths(size, undefined, 4)}</strong>. It
          should be{" "}
          <NumberField
            inline
            label="Height"
            value={size[1]!}
            kind="length"
            unit="mm"
            digits={2}
            min={1e-6}
            onChange={(height) => void edit({ resize: { part: root, height } })}
          />{" "}
          high.
        </p>
        <Beside height={size[1]!} />
        <p className="text-[11px] text-quiet">
          Width × height × depth. The unit is {unit === r.unit ? r.unitWhy : "as chosen here"}; the upright
          axis is {up === r.up ? r.upWhy : "as chosen here"}.
        </p>
        <Replacement shot={p.shot} root={root} />
        <dl className="mt-2 grid grid-cols-[1fr_auto] gap-y-1">
          {rows.map(([k, v]) => (
            <div key={k} className="contents">
              <dt className="text-quiet">{k}</dt>
              <dd className="font-mono text-[12px]">{v}</dd>
            </div>
          ))}
        </dl>
      </Section>
    </>
  );
}

/** What became of the parts when a newer file took the place of an import. */
const useReplaced = create<Record<string, Replaced>>(() => ({}));

function Newer({ shot, source }: { shot: ShotReply; source: Source }) {
  const bring = (files: File[]) =>
    void replaceModel(shot.id, source.root, files)
      .then((got) => {
        useReplaced.setState({ [source.root]: got });
        return renew(keys.shot(shot.id));
      })
      .catch((e: Error) => say(e.message));
  return (
    <button
      type="button"
      className="underline hover:text-ink"
      title="Names, places, moves and materials stay; parts are matched by the names in the file"
      onClick={() => choose(models, false, bring)}
    >
      replace by a newer file…
    </button>
  );
}

function Replacement({ shot, root }: { shot: ShotReply; root: string }) {
  const got = useReplaced((s) => s[root]);
  if (!got) return null;
  const here = (ids: string[]) => shot.document.parts.filter((p) => ids.includes(p.id));
  const lists: [string, string, Part[]][] = [
    ["text-brass", "not in the newer file, kept as before", here(got.gone)],
    ["text-verdigris", "new", here(got.new)],
  ];
  return (
    <div className="mt-2 text-[12px]" aria-label="Replaced">
      <p>
        {got.matched} {got.matched === 1 ? "part was" : "parts were"} matched with {got.file}.
      </p>
      {lists.map(
        ([colour, what, parts]) =>
          parts.length > 0 && (
            <p key={what} className={colour}>
              {parts
                .slice(0, 12)
                .map((p) => p.name)
                .join(", ")}
              {parts.length > 12 && ` and ${parts.length - 12} more`}: {what}.{" "}
              <button
                type="button"
                className="stitched text-ink"
                onClick={() => chooseParts(parts.map((p) => p.id))}
              >
                Select
              </button>
            </p>
          ),
      )}
    </div>
  );
}

/** What else is to be said of an import. */
function Remarks({ shot, report: r }: { shot: ShotReply; report: Report }) {
  const sought = new Set(shot.document.materials.flatMap((m) => texturesOf(m).map(([, t]) => t.missing)));
  const missing = r.missing.filter((f) => sought.has(f) || !/\.(png|jpe?g|webp|tiff?|bmp|tga)$/i.test(f));
  return (
    <>
      {(r.became ?? []).length > 0 && <Lines title="Came along" colour="" list={r.became} />}
      {missing.length + r.warnings.length + r.leftOut.length === 0 && (
        <Section title="To look at">
          <p className="text-quiet">No file is missing, nothing stands out, and everything was taken in.</p>
        </Section>
      )}
      {missing.length > 0 && <Lines title="Missing" colour="text-coral" list={missing} />}
      {r.warnings.length > 0 && <Lines title="To look at" colour="text-brass" list={r.warnings} />}
      {r.leftOut.length > 0 && <Lines title="Left out" colour="text-quiet" list={r.leftOut} />}
    </>
  );
}

function Lines(p: { title: string; colour: string; list: string[] }) {
  return (
    <Section title={p.title} note={p.list.length}>
      {p.list.length <= 20 ? (
        <ul className="space-y-1">
          {p.list.map((t, i) => (
            <li key={i} className={p.colour}>
              {t}
            </li>
          ))}
        </ul>
      ) : (
        <Windowed rows={p.list} height={22} most={176} label={p.title}>
          {(t, i) => (
            <li key={i} title={t} className={`h-[22px] truncate leading-[22px] ${p.colour}`}>
              {t}
            </li>
          )}
        </Windowed>
      )}
    </Section>
  );
}

const count = (n: number) => n.toLocaleString("en").replaceAll(",", "\u202f");

const things: [number, string][] = [
  [0.024, "a coin"],
  [0.0856, "a bank card"],
  [0.15, "a hand"],
  [0.3, "a sheet of paper"],
  [0.75, "a table"],
  [1.7, "a person"],
  [4.5, "a car"],
  [12, "a bus"],
];

/** The model's height beside a thing that everybody knows the size of. */
function Beside({ height }: { height: number }) {
  if (!(height > 0)) return null;
  const [size, name] = things.reduce((a, b) =>
    Math.abs(Math.log(a[0] / height)) <= Math.abs(Math.log(b[0] / height)) ? a : b,
  );
  const k = 44 / Math.max(size, height);
  return (
    <div className="my-1.5 flex items-end gap-2" aria-label={`Beside ${name} of ${lengths([size])}`}>
      <span className="w-5 bg-verdigris/60" style={{ height: Math.max(1, height * k) }} />
      <span className="w-5 border border-dashed border-quiet" style={{ height: Math.max(1, size * k) }} />
      <span className="text-[11px] text-quiet">
        beside {name}, {lengths([size])}
      </span>
    </div>
  );
}
