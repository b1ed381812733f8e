import { ChevronRight, Eye, EyeOff, Lock, Search } from "lucide-react";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useEdits } from "../api/queries";
import type { Part, ShotReply } from "../api/types.gen";
import { partTouched } from "../state/chosen";
import { AddPart } from "../sheets/AddPart";
import { usePane } from "../state/panes";
import { choose, select, toggle, useUi } from "../state/ui";

interface Line {
  part: Part;
  depth: number;
  children: number;
}

const rowHeight = 26;

/** Where a dragged part would go: before a row, behind it, or into its group. */
interface Target {
  id: string;
  how: "before" | "after" | "into";
}

export function PartsTree({ shot }: { shot: ShotReply }) {
  const parts = shot.document.parts;
  const [open, setOpen] = useState<Record<string, boolean>>({});
  const [searching, setSearching] = useState(false);
  const [query, setQuery] = useState("");
  const [target, setTarget] = useState<Target | null>(null);
  const [scroll, setScroll] = useState({ top: 0, height: 600 });
  const list = useRef<HTMLDivElement>(null);
  const size = usePane("tree");
  const selected = useUi((s) => s.selected);
  const chosen = useUi((s) => s.chosen);
  const { edit } = useEdits();
  const hidden = useMemo(
    () => new Set(parts.filter((_, i) => shot.shown[i]?.hidden).map((p) => p.id)),
    [parts, shot.shown],
  );
  const needsWork = new Set([...shot.moves, ...shot.pins].filter((c) => !c.closes).map((c) => c.part));

  const lines = useMemo(() => {
    const below = new Map<string, Part[]>();
    for (const p of parts) {
      const siblings = below.get(p.parent);
      if (siblings) siblings.push(p);
      else below.set(p.parent, [p]);
    }
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

  useLayoutEffect(() => {
    const watch = new ResizeObserver(() => setScroll((s) => ({ ...s, height: list.current!.clientHeight })));
    watch.observe(list.current!);
    return () => watch.disconnect();
  }, []);
  const at = lines.findIndex((l) => l.part.id === selected);
  useEffect(() => {
    // what is selected elsewhere comes into sight
    const el = list.current!;
    if (at < 0) return;
    if (at * rowHeight < el.scrollTop) el.scrollTop = at * rowHeight;
    else if ((at + 1) * rowHeight > el.scrollTop + el.clientHeight)
      el.scrollTop = (at + 1) * rowHeight - el.clientHeight;
  }, [at]);

  const press = (e: React.KeyboardEvent) => {
    const line = lines[at];
    const to = { ArrowDown: at + 1, ArrowUp: at - 1 }[e.key];
    const isOpen = line && (open[line.part.id] ?? line.depth < 2);
    if (to !== undefined && lines[to]) {
      if (e.shiftKey) toggle(lines[to].part.id);
      else select(lines[to].part.id);
    } else if (line && e.key === "ArrowRight" && line.children && !isOpen)
      setOpen({ ...open, [line.part.id]: true });
    else if (line && e.key === "ArrowLeft" && line.children && isOpen)
      setOpen({ ...open, [line.part.id]: false });
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  const click = (e: React.MouseEvent, i: number) => {
    const id = lines[i]!.part.id;
    partTouched();
    if (e.ctrlKey || e.metaKey) toggle(id);
    else if (e.shiftKey && at >= 0) {
      const range = lines.slice(Math.min(at, i), Math.max(at, i) + 1).map((l) => l.part.id);
      choose([...range.filter((r) => r !== id), id]);
    } else select(id);
  };

  const drop = (keep: boolean) => {
    const t = target;
    setTarget(null);
    if (!t) return;
    const row = parts.find((p) => p.id === t.id)!;
    if (t.how === "into") return void edit({ putIn: { parts: chosen, parent: t.id, before: "", keep } });
    const siblings = parts.filter((p) => p.parent === row.parent && !chosen.includes(p.id));
    const k = siblings.findIndex((p) => p.id === t.id);
    const before = t.how === "before" ? t.id : (siblings[k + 1]?.id ?? "");
    void edit({ putIn: { parts: chosen, parent: row.parent, before, keep } });
  };

  const first = Math.max(0, Math.floor(scroll.top / rowHeight) - 8);
  const shown = lines.slice(first, first + Math.ceil(scroll.height / rowHeight) + 16);
  return (
    <aside
      className="flex shrink-0 flex-col border-r border-line bg-panel"
      style={{ width: size }}
      aria-label="Parts"
    >
      <div className="flex h-[34px] shrink-0 items-center justify-between pr-2 pl-3">
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
              if (e.key === "Enter") choose(lines.map((l) => l.part.id)); // all that were found
            }}
            onBlur={() => query === "" && setSearching(false)}
            className="h-[24px] w-full rounded-sm border border-line bg-ground px-1.5"
          />
        ) : (
          <>
            <span className="text-quiet">
              {chosen.length > 1 ? `${chosen.length} of ${parts.length} selected` : `${parts.length} parts`}
            </span>
            <span className="flex items-center gap-0.5">
              <AddPart shot={shot} />
              <button
                type="button"
                aria-label="Search parts"
                onClick={() => setSearching(true)}
                className="p-1 text-quiet hover:text-ink"
              >
                <Search size={13} />
              </button>
            </span>
          </>
        )}
      </div>
      <div
        ref={list}
        role="tree"
        aria-label="Parts"
        aria-multiselectable
        tabIndex={0}
        className="min-h-0 flex-1 overflow-auto outline-offset-[-2px]"
        onScroll={(e) => setScroll({ top: e.currentTarget.scrollTop, height: e.currentTarget.clientHeight })}
        onKeyDown={press}
        onClick={() => select(null)} // beside the rows
        onDragLeave={(e) =>
          e.relatedTarget && !e.currentTarget.contains(e.relatedTarget as Node) && setTarget(null)
        }
        onDragOver={(e) => target && e.preventDefault()}
        onDrop={(e) => {
          e.preventDefault();
          drop(!e.altKey);
        }}
      >
        <div style={{ height: lines.length * rowHeight + 12, paddingTop: first * rowHeight }}>
          {shown.map(({ part, depth, children }, k) => {
            const i = first + k;
            const isOpen = query !== "" || (open[part.id] ?? depth < 2);
            const on = chosen.includes(part.id);
            const t = target?.id === part.id ? target.how : null;
            return (
              <div
                key={part.id}
                role="treeitem"
                aria-label={part.name}
                aria-selected={on}
                aria-expanded={children ? isOpen : undefined}
                aria-level={depth + 1}
                aria-setsize={lines.length}
                aria-posinset={i + 1}
                draggable
                onDragStart={(e) => {
                  if (!on) select(part.id);
                  e.dataTransfer.effectAllowed = "move";
                  e.dataTransfer.setData("text/plain", part.name);
                }}
                onDragEnd={() => setTarget(null)}
                onDragOver={(e) => {
                  if (e.dataTransfer.types.includes("Files") || on) return;
                  e.preventDefault();
                  e.stopPropagation();
                  const r = e.currentTarget.getBoundingClientRect();
                  const y = (e.clientY - r.top) / r.height;
                  const how =
                    part.kind !== "floor" && !part.copies && y > 0.3 && y < 0.7
                      ? "into"
                      : y < 0.5
                        ? "before"
                        : "after";
                  if (target?.id !== part.id || target.how !== how) setTarget({ id: part.id, how });
                }}
                onClick={(e) => {
                  e.stopPropagation();
                  click(e, i);
                }}
                style={{ paddingLeft: 6 + depth * 12, height: rowHeight }}
                className={`group relative flex cursor-default items-center gap-1 pr-2 ${
                  on ? "bg-verdigris/20 shadow-[inset_2px_0_0_var(--verdigris)]" : "hover:bg-raised"
                } ${hidden.has(part.id) ? "text-quiet" : ""} ${t === "into" ? "outline outline-verdigris -outline-offset-1" : ""}`}
              >
                {(t === "before" || t === "after") && (
                  <span
                    className={`absolute right-0 left-2 h-0 border-t-2 border-verdigris ${t === "before" ? "top-0" : "bottom-0"}`}
                  />
                )}
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
                {part.tag && (
                  <span className="size-2 shrink-0 rounded-full" style={{ background: part.tag }} />
                )}
                <span className="flex-1 truncate" title={part.name}>
                  {part.name}
                </span>
                {part.locked && <Lock size={11} className="shrink-0 text-quiet" aria-label="locked" />}
                <span className={`text-[11px] ${needsWork.has(part.id) ? "text-coral" : "text-quiet"}`}>
                  {noteOf(shot, part, children)}
                </span>
                <button
                  type="button"
                  tabIndex={-1}
                  aria-label={part.hidden ? `Show ${part.name}` : `Hide ${part.name}`}
                  onClick={(e) => {
                    e.stopPropagation();
                    void edit({ flag: { parts: [part.id], hidden: !part.hidden } });
                  }}
                  className={`text-quiet hover:text-ink ${part.hidden ? "" : "opacity-0 group-hover:opacity-100 focus-visible:opacity-100"}`}
                >
                  {part.hidden ? <EyeOff size={12} /> : <Eye size={12} />}
                </button>
              </div>
            );
          })}
        </div>
      </div>
    </aside>
  );
}

function noteOf(shot: ShotReply, part: Part, children: number): string {
  if (part.id === shot.document.camera) return "in use";
  if (part.copies)
    return `×${part.copies.kind === "grid" ? part.copies.count.reduce((a, b) => a * b, 1) : part.copies.count[0]}`;
  if (part.moves.length === 1) return part.moves[0]!.kind;
  if (part.moves.length > 1) return `moves ${part.moves.length}`;
  return children > 3 ? String(children) : "";
}
