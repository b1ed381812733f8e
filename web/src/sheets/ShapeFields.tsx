import { useKinds } from "../api/kinds";
import { useEdits } from "../api/queries";
import type { Measure, Part, ShotReply, Vec3 } from "../api/types.gen";
import { Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { Section } from "./Section";

/** The measures of a shape; they stay editable for good. The core says which there are. */
export function ShapeFields({ shot, part }: { shot: ShotReply; part: Part }) {
  const { edit } = useEdits();
  const kind = useKinds()?.shapes.find((k) => k.kind === part.shape!.kind);
  const now = shot.shown[shot.document.parts.indexOf(part)]?.measures ?? {};
  const set = (name: string, v: number) =>
    void edit({ setShape: { part: part.id, measures: { [name]: v } } });
  return (
    <Section title="Measures">
      {kind?.measures.map((m) => (
        <Field key={m.name} m={m} now={now[m.name] ?? 0} set={(v) => set(m.name, v)} />
      ))}
      {kind?.points && <PointFields part={part} names={kind.points} points={part.shape!.points ?? []} />}
    </Section>
  );
}

function Field({ m, now, set }: { m: Measure; now: number; set: (v: number) => void }) {
  if (m.unit === "flag") return <Toggle label={m.label} on={now !== 0} onChange={(on) => set(on ? 1 : 0)} />;
  if (m.unit === "count")
    return (
      <NumberField
        label={m.label}
        value={now || (m.usual ?? 0)}
        kind="number"
        digits={0}
        whole
        min={m.least}
        max={m.most}
        onChange={(v) => set(Math.round(v))}
      />
    );
  const one = m.unit === "angle" ? 2 * Math.PI : 1;
  return (
    <NumberField
      label={m.label}
      value={now / one}
      kind={m.unit === "angle" ? "angle" : "length"}
      unit={m.unit === "angle" ? "°" : "mm"}
      digits={3}
      min={m.least / one}
      max={m.most / one}
      onChange={(v) => set(v * one)}
    />
  );
}

function PointFields({ part, names, points }: { part: Part; names: string[]; points: Vec3[] }) {
  const { edit } = useEdits();
  const button = "rounded-sm border border-line px-1.5 hover:bg-raised disabled:opacity-45";
  const last = points.length - 1;
  return (
    <>
      {points.map((p, i) => (
        <div key={i} className="flex items-center gap-1">
          <span className="w-5 text-[11px] text-quiet">{i + 1}</span>
          {names.map((name, k) => (
            <div key={name} className="flex-1">
              <NumberField
                label={`${name} ${i + 1}`}
                value={p[k]!}
                kind="length"
                unit="mm"
                digits={3}
                onChange={(v) =>
                  void edit((now) => {
                    const held = now.document.parts.find((q) => q.id === part.id)?.shape;
                    const point = held?.points?.[i] ?? p;
                    return {
                      setPoints: { part: part.id, at: i, to: point.map((o, j) => (j === k ? v : o)) as Vec3 },
                    };
                  })
                }
              />
            </div>
          ))}
        </div>
      ))}
      <div className="mt-1 flex gap-1.5">
        <button
          type="button"
          className={button}
          onClick={() => void edit({ setPoints: { part: part.id, at: last, add: true } })}
        >
          One more
        </button>
        <button
          type="button"
          disabled={points.length < 3}
          className={button}
          onClick={() => void edit({ setPoints: { part: part.id, at: last, remove: true } })}
        >
          One less
        </button>
      </div>
    </>
  );
}
