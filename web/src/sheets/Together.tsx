import { useState } from "react";
import { useKinds } from "../api/kinds";
import type { Format, ShotReply } from "../api/types.gen";
import { Toggle } from "../fields/controls";

/** What is rendered together: a run for each camera, finish and format of these; what is shown where a list is empty. */
export interface Several {
  cameras: string[];
  finishes: string[];
  formats: Format[];
}

/** Kept by shot as long as the page is open. */
const kept = new Map<string, Several>();
const none: Several = { cameras: [], finishes: [], formats: [] };

export function useTogether(shot: ShotReply): [Several, (s: Several) => void] {
  const [, redraw] = useState(0);
  const d = shot.document;
  const held = kept.get(shot.id) ?? none;
  // What has been removed meanwhile is not asked for.
  const now: Several = {
    cameras: held.cameras.filter((id) => d.parts.some((p) => p.id === id && p.camera)),
    finishes: held.finishes.filter((id) => id === "" || d.finishes?.some((f) => f.id === id)),
    formats: held.formats,
  };
  return [
    now,
    (s) => {
      kept.set(shot.id, s);
      redraw((n) => n + 1);
    },
  ];
}

export const runsOf = (s: Several) =>
  Math.max(1, s.cameras.length) * Math.max(1, s.finishes.length) * Math.max(1, s.formats.length);

/** A pattern of names in which runs that are rendered together are told apart. */
export function namedFor(name: string, s: Several): string {
  const more = [
    s.cameras.length > 1 && "{camera}",
    s.finishes.length > 1 && "{finish}",
    s.formats.length > 1 && "{format}",
  ].filter((w): w is string => typeof w === "string" && !name.includes(w));
  if (more.length === 0) return name;
  const at = name.indexOf(".{frame}");
  const k = at < 0 ? (name.includes("{frame}") ? name.indexOf("{frame}") : name.length) : at;
  return (
    name.slice(0, k) + "." + more.join(".") + (at < 0 && name.includes("{frame}") ? "." : "") + name.slice(k)
  );
}

const same = (a: Format, b: Format) => a.width === b.width && a.height === b.height;

export function Together({
  shot,
  value: s,
  onChange,
}: {
  shot: ShotReply;
  value: Several;
  onChange: (s: Several) => void;
}) {
  const d = shot.document;
  const cameras = d.parts.filter((p) => p.camera && !p.hidden);
  const formats = useKinds()?.formats ?? [];
  const finishes = d.finishes ?? [];
  const [open, setOpen] = useState(runsOf(s) > 1);
  const flip = <T,>(list: T[], first: T, one: T, on: boolean, like: (a: T, b: T) => boolean) => {
    const now = list.length > 0 ? list : [first];
    const next = on ? [...now.filter((x) => !like(x, one)), one] : now.filter((x) => !like(x, one));
    return next.length === 1 && like(next[0]!, first) ? [] : next;
  };
  const is = (a: string, b: string) => a === b;
  if (!open)
    return (
      <button
        type="button"
        className="mb-2 block text-[11px] text-quiet underline hover:text-ink"
        onClick={() => setOpen(true)}
      >
        Several finishes, formats or cameras…
      </button>
    );
  const all = [...finishes.map((f) => ({ id: f.id, name: f.name })), { id: "", name: "as it came" }];
  return (
    <div className="mb-2">
      {finishes.length > 0 && (
        <div role="group" aria-label="Finishes">
          <p className="text-quiet">Finishes</p>
          {all.map((f) => (
            <Toggle
              key={f.id}
              label={f.name}
              on={s.finishes.length > 0 ? s.finishes.includes(f.id) : f.id === (d.finish ?? "")}
              onChange={(on) => onChange({ ...s, finishes: flip(s.finishes, d.finish ?? "", f.id, on, is) })}
            />
          ))}
        </div>
      )}
      <div role="group" aria-label="Formats">
        <p className="text-quiet">Formats, each fitted by itself</p>
        {(formats.some((f) => same(f, d.format))
          ? formats
          : [{ name: "of the shot", ...d.format }, ...formats]
        ).map((f) => (
          <Toggle
            key={f.name}
            label={`${f.name}, ${f.width} × ${f.height}`}
            on={s.formats.length > 0 ? s.formats.some((x) => same(x, f)) : same(f, d.format)}
            onChange={(on) =>
              onChange({
                ...s,
                formats: flip(s.formats, d.format, { width: f.width, height: f.height }, on, same),
              })
            }
          />
        ))}
      </div>
      {cameras.length > 1 && (
        <div role="group" aria-label="Cameras">
          <p className="text-quiet">Cameras</p>
          {cameras.map((c) => (
            <Toggle
              key={c.id}
              label={c.name}
              on={s.cameras.length > 0 ? s.cameras.includes(c.id) : c.id === d.camera}
              onChange={(on) => onChange({ ...s, cameras: flip(s.cameras, d.camera, c.id, on, is) })}
            />
          ))}
        </div>
      )}
    </div>
  );
}
