import { useEdits } from "../api/queries";
import type { Report, ShotReply } from "../api/types.gen";
import { Pick } from "../fields/controls";
import { BringInPanel } from "../screen/BringIn";
import { Section } from "./Sheet";

const worth: Record<string, number> = { m: 1, cm: 0.01, mm: 0.001, in: 0.0254, ft: 0.3048 };

/** What arrived with each import. */
export function Arrived({ shot }: { shot: ShotReply }) {
  return (
    <>
      {shot.document.sources.map((s, i) => {
        const r = shot.reports[i];
        return r && <Arrival key={s.root} report={r} unit={s.unit} root={s.root} />;
      })}
      <Section title="Another model">
        <div className="pt-1">
          <BringInPanel />
        </div>
      </Section>
    </>
  );
}

function Arrival({ report: r, unit, root }: { report: Report; unit: string; root: string }) {
  const { edit } = useEdits();
  const size = [0, 1, 2].map((i) => (r.bounds.max[i]! - r.bounds.min[i]!) * (worth[unit] ?? 1) * 1000);
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
            onChange={(u) => void edit({ setUnit: { root, unit: u } })}
          />
          , so that it is <strong className="font-mono font-normal">{lengths(size)}</strong>.
        </p>
        <p className="text-[11px] text-quiet">
          Width × height × depth. The unit is {unit === r.unit ? r.unitWhy : "as chosen here"}.
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
