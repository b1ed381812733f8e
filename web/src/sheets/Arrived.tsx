import { useEdits } from "../api/queries";
import type { Report, ShotReply, Source, Standing } from "../api/types.gen";
import { Pick } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { BringInPanel } from "../screen/BringIn";
import { Section } from "./Sheet";
import { TriageSection } from "./TriageSection";

/** What arrived with each import. */
export function Arrived({ shot }: { shot: ShotReply }) {
  return (
    <>
      {shot.document.sources.map((s, i) => {
        const r = shot.reports[i];
        return r && <Arrival key={s.root} report={r} source={s} standing={shot.standing[i]!} />;
      })}
      <TriageSection shot={shot} />
      <Section title="Another model">
        <div className="pt-1">
          <BringInPanel />
        </div>
      </Section>
    </>
  );
}

function Arrival({ report: r, source, standing }: { report: Report; source: Source; standing: Standing }) {
  const { edit } = useEdits();
  const { unit, root } = source;
  const up = source.up || "y";
  const read = (change: Partial<Source>) => void edit({ setReading: { root, unit, up, ...change } });
  const size = standing.size.map((v) => v * 1000);
  const rows: [string, string][] = [
    ["Parts", count(r.parts)],
    ["Triangles", count(r.triangles)],
    ["Vertices", count(r.vertices)],
    ["Materials", count(r.materials)],
    ["Textures", count(r.textures)],
  ];
  return (
    <>
      <Section title={r.file} note="arrived">
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
          , so that it is <strong className="font-mono font-normal">{lengths(size)}</strong>. It should be{" "}
          <NumberField
            inline
            label="Height"
            value={size[1]! / 1000}
            kind="length"
            unit="mm"
            digits={2}
            min={1e-6}
            onChange={(height) => void edit({ arrange: { resize: { part: root, height } } })}
          />{" "}
          high.
        </p>
        <Beside height={size[1]! / 1000} />
        <p className="text-[11px] text-quiet">
          Width × height × depth. The unit is {unit === r.unit ? r.unitWhy : "as chosen here"}; the upright
          axis is {up === r.up ? r.upWhy : "as chosen here"}.
        </p>
        <dl className="mt-2 grid grid-cols-[1fr_auto] gap-y-1">
          {rows.map(([k, v]) => (
            <div key={k} className="contents">
              <dt className="text-quiet">{k}</dt>
              <dd className="font-mono text-[12px]">{v}</dd>
            </div>
          ))}
        </dl>
      </Section>
      <Lines title="Missing" colour="text-coral" list={r.missing} none="No file is missing." />
      <Lines title="To look at" colour="text-brass" list={r.warnings} none="Nothing stands out." />
      <Lines title="Left out" colour="text-quiet" list={r.leftOut} none="Everything was taken in." />
    </>
  );
}

function Lines(p: { title: string; colour: string; list: string[]; none: string }) {
  return (
    <Section title={p.title} note={p.list.length || undefined}>
      {p.list.length === 0 ? (
        <p className="text-quiet">{p.none}</p>
      ) : (
        <ul className="max-h-40 space-y-1 overflow-auto">
          {p.list.map((t, i) => (
            <li key={i} className={p.colour}>
              {t}
            </li>
          ))}
        </ul>
      )}
    </Section>
  );
}

const count = (n: number) => n.toLocaleString("en").replaceAll(",", "\u202f");

/** Lengths in millimetres, in the unit that suits the largest. */
function lengths(mm: number[]): string {
  const metres = Math.max(...mm) >= 10_000;
  return `${mm.map((v) => Number((metres ? v / 1000 : v).toPrecision(4))).join(" × ")} ${metres ? "m" : "mm"}`;
}

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
    <div className="my-1.5 flex items-end gap-2" aria-label={`Beside ${name} of ${lengths([size * 1000])}`}>
      <span className="w-5 bg-verdigris/60" style={{ height: Math.max(1, height * k) }} />
      <span className="w-5 border border-dashed border-quiet" style={{ height: Math.max(1, size * k) }} />
      <span className="text-[11px] text-quiet">
        beside {name}, {lengths([size * 1000])}
      </span>
    </div>
  );
}
