import { ChevronDown, ChevronLeft, ChevronRight, ChevronUp } from "lucide-react";
import { useRef } from "react";
import { fold, panes, resize, usePane, usePanes, type Pane } from "../state/panes";

const far = { left: ChevronLeft, right: ChevronRight, up: ChevronUp, down: ChevronDown };
const opposite = { left: "right", right: "left", up: "down", down: "up" } as const;

/**
 * The edge between a pane and the picture: dragged, it resizes the pane; pressed twice, or with Enter, it puts the pane
 * away and brings it back. Beside a pane that is put away stands a strip that brings it back.
 */
export function Edge({ pane, lies }: { pane: Pane; lies: "left" | "right" | "down" }) {
  const size = usePane(pane);
  const full = usePanes((s) => s.full);
  const from = useRef<{ at: number; size: number } | null>(null);
  const across = lies === "down";
  const sign = lies === "left" ? 1 : -1; // a pane on the left grows to the right
  if (full) return null;
  if (size === 0) {
    const Icon = far[opposite[lies]];
    return (
      <button
        type="button"
        title={`Bring back ${panes[pane].name}`}
        aria-label={`Bring back ${panes[pane].name}`}
        onClick={() => fold(pane)}
        className={`flex shrink-0 items-center justify-center border-line bg-panel text-quiet hover:bg-raised hover:text-ink ${
          across ? "h-[16px] w-full border-t" : `w-[16px] ${lies === "left" ? "border-r" : "border-l"}`
        }`}
      >
        <Icon size={13} />
      </button>
    );
  }
  const at = (e: React.PointerEvent) => (across ? e.clientY : e.clientX);
  return (
    <div className={`relative z-20 shrink-0 ${across ? "h-0 w-full" : "w-0"}`}>
      <div
        role="separator"
        tabIndex={0}
        aria-label={`Edge of ${panes[pane].name}`}
        aria-orientation={across ? "horizontal" : "vertical"}
        aria-valuenow={size}
        aria-valuemin={panes[pane].least}
        aria-valuemax={panes[pane].most}
        title={`Drag to resize ${panes[pane].name}; press twice to put it away`}
        className={`absolute touch-none hover:bg-verdigris/50 focus-visible:bg-verdigris ${
          across
            ? "inset-x-0 -top-[3px] h-[6px] cursor-row-resize"
            : "inset-y-0 -left-[3px] w-[6px] cursor-col-resize"
        }`}
        onPointerDown={(e) => {
          if (e.button !== 0) return;
          e.preventDefault(); // no text is selected
          from.current = { at: at(e), size };
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => {
          if (from.current) resize(pane, from.current.size + sign * (at(e) - from.current.at));
        }}
        onPointerUp={() => (from.current = null)}
        onPointerCancel={() => (from.current = null)}
        onDoubleClick={() => fold(pane)}
        onKeyDown={(e) => {
          const [more, less] = across ? ["ArrowUp", "ArrowDown"] : ["ArrowRight", "ArrowLeft"];
          const way = e.key === more ? 1 : e.key === less ? -1 : 0;
          if (way === 0 && e.key !== "Enter") return;
          e.preventDefault();
          e.stopPropagation();
          if (way === 0) fold(pane);
          else resize(pane, size + way * (across ? 1 : sign) * (e.shiftKey ? 40 : 8));
        }}
      />
    </div>
  );
}
