import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { Plus, X } from "lucide-react";
import { newId } from "../api/ids";
import { useKinds } from "../api/kinds";
import { useEdits } from "../api/queries";
import type { Finish, Material, ShotReply } from "../api/types.gen";
import { Button, itemClass } from "../fields/controls";
import { ask } from "../screen/ask";
import { Section } from "./Section";
import { hashOf, sampleOf } from "./MaterialsSection";

/** What a finish makes of a material that is worn without one: null for itself, "mixed" where parts differ. */
function madeOf(shot: ShotReply, f: Finish, m: string): string | null {
  const swaps = new Map(f.swaps.map((s) => [`${s.part}/${s.primitive}`, s.material]));
  const got = new Set<string | null>();
  for (const p of shot.document.parts)
    p.materials?.forEach((own, k) => own === m && got.add(swaps.get(`${p.id}/${k}`) ?? null));
  return got.size > 1 ? "mixed" : ([...got][0] ?? null);
}

/** Finishes as a table: rows are the materials that are worn, columns the finishes, a cell is what changes. */
export function FinishTable({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const d = shot.document;
  const finishes = d.finishes ?? [];
  const worn = new Set(d.parts.flatMap((p) => p.materials ?? []));
  const rows = d.materials.filter((m) => worn.has(m.id));
  const changed = rows.filter((m) => finishes.some((f) => madeOf(shot, f, m.id) !== null));
  const some = rows.length > 12 && changed.length > 0 ? changed : rows.slice(0, 60);
  const name = d.finish ? finishes.find((f) => f.id === d.finish)?.name : undefined;
  const add = () =>
    void ask({
      title: "Keep what is shown as a finish",
      value: `Finish ${finishes.length + 1}`,
      yes: "Keep",
    }).then((n) => {
      if (n) void edit({ addFinish: { id: newId(), name: n } });
    });
  return (
    <Section title="Finishes" note={finishes.length > 0 ? `shown: ${name ?? "as it came"}` : undefined}>
      {finishes.length === 0 && (
        <p className="mb-1.5 text-quiet">
          A finish is a colourway: the same shot in other materials. Keep what is shown as the first one, then
          press its cells.
        </p>
      )}
      {finishes.length > 0 && (
        <div className="overflow-x-auto pb-1">
          <table className="border-separate border-spacing-x-1 border-spacing-y-0.5">
            <thead>
              <tr>
                <th className="w-[84px] text-left text-[11px] font-normal text-quiet">
                  <button
                    type="button"
                    aria-pressed={!d.finish}
                    className={!d.finish ? "text-verdigris" : "hover:text-ink"}
                    onClick={() => void edit({ setFinish: { finish: "" } })}
                  >
                    as it came
                  </button>
                </th>
                {finishes.map((f) => (
                  <th key={f.id} className="w-[46px] text-[11px] font-normal">
                    <button
                      type="button"
                      aria-pressed={d.finish === f.id}
                      title={`Show ${f.name}. Twice: rename it`}
                      className={`block w-[46px] truncate text-left ${d.finish === f.id ? "text-verdigris" : "text-quiet hover:text-ink"}`}
                      onClick={() => void edit({ setFinish: { finish: f.id } })}
                      onDoubleClick={() =>
                        void ask({ title: "Rename the finish", value: f.name, yes: "Rename" }).then((n) => {
                          if (n && n !== f.name) void edit({ renameFinish: { finish: f.id, name: n } });
                        })
                      }
                    >
                      {f.name}
                    </button>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {some.map((m) => (
                <tr key={m.id}>
                  <td className="max-w-[84px] truncate" title={m.name}>
                    {m.name}
                  </td>
                  {spans(finishes.map((f) => madeOf(shot, f, m.id))).map(({ value, at, wide }) => (
                    <td key={finishes[at]!.id} colSpan={wide}>
                      <Cell shot={shot} of={m} finishes={finishes.slice(at, at + wide)} value={value} />
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <div className="flex flex-wrap gap-1.5">
        <Button onClick={add}>
          <Plus size={13} /> Keep this finish…
        </Button>
        {d.finish && (
          <Button onClick={() => void edit({ removeFinish: { finish: d.finish! } })}>
            <X size={13} /> Remove {name}
          </Button>
        )}
      </div>
    </Section>
  );
}

/** Neighbours that are alike share one wide cell; those that stay as they are do not. */
function spans(values: (string | null)[]) {
  const out: { value: string | null; at: number; wide: number }[] = [];
  values.forEach((value, at) => {
    const last = out.at(-1);
    if (last && value !== null && value !== "mixed" && last.value === value) last.wide++;
    else out.push({ value, at, wide: 1 });
  });
  return out;
}

/** What some finishes make of a material, with the choice of what else. */
function Cell({
  shot,
  of,
  finishes,
  value,
}: {
  shot: ShotReply;
  of: Material;
  finishes: Finish[];
  value: string | null;
}) {
  const { edit } = useEdits();
  const now = shot.document.materials.find((m) => m.id === value);
  const names = finishes.map((f) => f.name).join(", ");
  const put = (dress: object) =>
    void edit(...finishes.map((f) => ({ swap: { finish: f.id, of: of.id, ...dress } })));
  return (
    <Popover>
      <PopoverButton
        aria-label={`${of.name} in ${names}: ${value === "mixed" ? "mixed" : (now?.name ?? "as it came")}`}
        title={value === "mixed" ? "parts differ" : (now?.name ?? "as it came")}
        className={`block h-[22px] w-full min-w-[44px] overflow-hidden rounded-sm border ${now ? "border-line" : "border-dashed border-line text-quiet"}`}
      >
        {now ? (
          <span
            className="block size-full bg-cover bg-center"
            style={{ backgroundImage: `url("${sampleOf(shot.id, now)}")`, backgroundSize: "170%" }}
          />
        ) : value === "mixed" ? (
          "…"
        ) : (
          ""
        )}
      </PopoverButton>
      <PopoverPanel
        anchor="bottom start"
        className="z-50 max-h-[300px] w-52 overflow-auto rounded-md border border-line bg-raised p-1 shadow-xl [--anchor-gap:4px]"
      >
        {({ close }) => {
          const row = (key: string, label: string, act: () => void, sample?: Material) => (
            <button
              key={key}
              type="button"
              className={`${itemClass} w-full text-left hover:bg-verdigris/20`}
              onClick={() => {
                act();
                close();
              }}
            >
              {sample && <img src={sampleOf(shot.id, sample)} alt="" className="size-[20px] rounded-full" />}
              <span className="truncate">{label}</span>
            </button>
          );
          return (
            <>
              {row("own", "as it came", () => put({}))}
              {row(
                "copy",
                "another colour of it",
                () => put({ material: (now ?? of).id, own: true }),
                now ?? of,
              )}
              {shot.document.materials
                .filter((m) => m.id !== of.id)
                .slice(0, 100)
                .map((m) => row(m.id, m.name, () => put({ material: m.id }), m))}
              <PresetRows onPick={(preset) => put({ preset })} close={close} />
            </>
          );
        }}
      </PopoverPanel>
    </Popover>
  );
}

function PresetRows({ onPick, close }: { onPick: (name: string) => void; close: () => void }) {
  const presets = useKinds()?.presets ?? [];
  return (
    <>
      <p className="mt-1 border-t border-line px-2 pt-1 text-[11px] text-quiet">To start from</p>
      {presets.map((p) => (
        <button
          key={p.name}
          type="button"
          className={`${itemClass} w-full text-left hover:bg-verdigris/20`}
          onClick={() => {
            onPick(p.name);
            close();
          }}
        >
          <img
            src={`/api/presets/picture?name=${encodeURIComponent(p.name)}&as=${hashOf(p)}`}
            alt=""
            loading="lazy"
            className="size-[20px] rounded-full"
          />
          {p.name}
        </button>
      ))}
    </>
  );
}
