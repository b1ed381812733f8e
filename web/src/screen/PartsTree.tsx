import { ChevronRight, Eye, EyeOff, Search } from "lucide-react";
import { useMemo, useState } from "react";
import { useEdits } from "../api/queries";
import type { Part, ShotReply } from "../api/types.gen";
import { select, useUi } from "../state/ui";
import { hiddenParts } from "../views/stage";

interface Line {
  part: Part;
  depth: number;
  children: number;
}

export function PartsTree({ shot }: { shot: ShotReply }) {
  const parts = shot.document.parts;
  const [open, setOpen] = useState<Record<string, boolean>>({});
  const [searching, setSearching] = useState(false);
  const [query, setQuery] = useState("");
  const selected = useUi((s) => s.selected);
  const { edit } = useEdits();
  const hidden = useMemo(() => hiddenParts(shot.document), [shot]);
  const needsWork = new Set(shot.closings.filter((c) => !c.closes).map((c) => c.part));

  const lines = useMemo(() => {
    const below = new Map<string, Part[]>();
    for (const p of parts) below.set(p.parent, [...(below.get(p.parent) ?? []), p]);
    const words = query.toLowerCase().trim();
    const out: Line[] = [];
    const walk = (parent: string, depth: number) => {
      for (const part of below.get(parent) ?? []) {
        const children = below.get(part.id)?.length ?? 0;
        if (words ? part.name.toLowerCase().includes(words) : true)
          out.push({ part, depth: words ? 0 : depth, children });
        if (words || (open[part.id] ?? depth < 2)) walk(part.id, depth + 1);
      }
    };
    walk("", 0);
    return out;
  }, [parts, open, query]);

  const move = (e: React.KeyboardEvent, i: number) => {
    const line = lines[i]!;
    const isOpen = open[line.part.id] ?? line.depth < 2;
    const to = { ArrowDown: i + 1, ArrowUp: i - 1 }[e.key];
    if (to !== undefined && lines[to]) {
      select(lines[to].part.id);
      const row = e.currentTarget.parentElement?.children[to] as HTMLElement | undefined;
      row?.focus();
    } else if (e.key === "ArrowRight" && line.children && !isOpen) setOpen({ ...open, [line.part.id]: true });
    else if (e.key === "ArrowLeft" && line.children && isOpen) setOpen({ ...open, [line.part.id]: false });
    else if (to === undefined) return;
    e.preventDefault();
    e.stopPropagation();
  };

  return (
    <aside className="flex w-[208px] shrink-0 flex-col border-r border-line bg-panel" aria-label="Parts">
      <div className="flex h-[34px] items-center justify-between pr-2 pl-3">
        {searching ? (
          <input
            autoFocus
            type="search"
            aria-label="Search parts"
            placeholder="Name of a part"
            value={query}
            onChange={(e) => setQuery(e.target.value)}
            onKeyDown={(e) => {
              e.stopPropagation();
              if (e.key === "Escape") {
                setQuery("");
                setSearching(false);
              }
            }}
            onBlur={() => query === "" && setSearching(false)}
            className="h-[24px] w-full rounded-sm border border-line bg-ground px-1.5"
          />
        ) : (
          <>
            <span className="text-quiet">{parts.length} parts</span>
            <button
              type="button"
              aria-label="Search parts"
              onClick={() => setSearching(true)}
              className="p-1 text-quiet hover:text-ink"
            >
              <Search size={13} />
            </button>
          </>
        )}
      </div>
      <div role="tree" aria-label="Parts" className="min-h-0 flex-1 overflow-auto pb-3">
        {lines.map(({ part, depth, children }, i) => {
          const isOpen = query !== "" || (open[part.id] ?? depth < 2);
          const on = part.id === selected;
          return (
            <div
              key={part.id}
              role="treeitem"
              aria-label={part.name}
              aria-selected={on}
              aria-expanded={children ? isOpen : undefined}
              aria-level={depth + 1}
              tabIndex={on || (selected === null && i === 0) ? 0 : -1}
              onClick={() => select(part.id)}
              onKeyDown={(e) => move(e, i)}
              style={{ paddingLeft: 6 + depth * 12 }}
              className={`group flex h-[26px] cursor-default items-center gap-1 pr-2 outline-offset-[-2px] ${
                on ? "bg-verdigris/20 shadow-[inset_2px_0_0_var(--verdigris)]" : "hover:bg-raised"
              } ${hidden.has(part.id) ? "text-quiet" : ""}`}
            >
              <button
                type="button"
                tabIndex={-1}
                aria-label={isOpen ? "Close" : "Open"}
                onClick={(e) => {
                  e.stopPropagation();
                  setOpen({ ...open, [part.id]: !isOpen });
                }}
                className={`text-quiet ${children ? "" : "invisible"}`}
              >
                <ChevronRight size={12} className={isOpen ? "rotate-90" : ""} />
              </button>
              <span className="flex-1 truncate" title={part.name}>
                {part.name}
              </span>
              <span className={`text-[11px] ${needsWork.has(part.id) ? "text-coral" : "text-quiet"}`}>
                {noteOf(shot, part, children)}
              </span>
              <button
                type="button"
                tabIndex={-1}
                aria-label={part.hidden ? `Show ${part.name}` : `Hide ${part.name}`}
                onClick={(e) => {
                  e.stopPropagation();
                  void edit({ setPart: { part: { ...part, hidden: !part.hidden } } });
                }}
                className={`text-quiet hover:text-ink ${part.hidden ? "" : "opacity-0 group-hover:opacity-100 focus-visible:opacity-100"}`}
              >
                {part.hidden ? <EyeOff size={12} /> : <Eye size={12} />}
              </button>
            </div>
          );
        })}
      </div>
    </aside>
  );
}

function noteOf(shot: ShotReply, part: Part, children: number): string {
  if (part.id === shot.document.camera) return "in use · locked";
  if (part.moves.length === 1) return part.moves[0]!.kind;
  if (part.moves.length > 1) return `moves ${part.moves.length}`;
  return children > 3 ? String(children) : "";
}
