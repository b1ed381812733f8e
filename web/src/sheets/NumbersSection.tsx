import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import type { ShotReply } from "../api/types.gen";
import { lengths } from "../fields/lengths";
import { Section } from "./Section";

const many = (n: number) => n.toLocaleString("en").replaceAll(",", "\u202f");

/** What can be counted and weighed of the selected parts, in the room. */
export function NumbersSection({ shot, ids }: { shot: ShotReply; ids: string[] }) {
  const [open, setOpen] = useState(false);
  const n = useQuery({
    queryKey: ["numbers", shot.id, shot.version, ids.join()],
    queryFn: () => api.numbers(shot.id, ids),
    enabled: open,
    placeholderData: (p) => p,
  }).data;
  const size = n?.bounds.max.map((v, i) => v - n.bounds.min[i]!);
  const rows: [string, string][] =
    !n || !size
      ? []
      : n.parts === 0
        ? [["Surface", "none"]]
        : [
            ["Size", lengths(size)],
            ["From", lengths(n.bounds.min, ", ")],
            ["To", lengths(n.bounds.max, ", ")],
            ["Triangles", many(n.triangles)],
            ["Surface", `${Number((n.area * 1e4).toPrecision(4))} cm²`],
            ["Closed", n.open === 0 ? "yes" : `no, ${many(n.open)} open ${n.open === 1 ? "edge" : "edges"}`],
            ...(n.volume > 0
              ? ([
                  ["Volume", `${Number((n.volume * 1e6).toPrecision(4))} cm³`],
                  ["Centre of mass", lengths(n.mass, ", ")],
                ] as [string, string][])
              : []),
          ];
  return (
    <Section
      title="Numbers"
      note={
        <button type="button" className="underline hover:text-ink" onClick={() => setOpen(!open)}>
          {open ? "put away" : "show"}
        </button>
      }
    >
      {open && (
        <dl className="grid grid-cols-[auto_1fr] gap-x-3 gap-y-1" aria-label="Numbers">
          {rows.map(([k, v]) => (
            <div key={k} className="contents">
              <dt className="text-quiet">{k}</dt>
              <dd className="truncate text-right font-mono text-[12px]" title={v}>
                {v}
              </dd>
            </div>
          ))}
        </dl>
      )}
    </Section>
  );
}
