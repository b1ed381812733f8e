import { X } from "lucide-react";
import { useEffect, useRef } from "react";
import { newId } from "../api/ids";
import { useEdits } from "../api/queries";
import type { Angle, ShotReply } from "../api/types.gen";
import { useUi } from "../state/ui";
import { Heading } from "./Heading";
import { useBench } from "./benchStore";

/** Two to six angles side by side, all as they are on the frame of the playhead. */
export function Compare({ shot }: { shot: ShotReply }) {
  const compared = useUi((s) => s.compared);
  const angles = compared.flatMap((id) => (shot.document.angles ?? []).find((a) => a.id === id) ?? []);
  const { edit } = useEdits();
  const end = () => useUi.setState({ comparing: false });
  const use = (a: Angle) => void edit({ useAngle: { angle: a.id, id: newId() } }).then((ok) => ok && end());
  const columns = angles.length <= 1 ? 1 : angles.length <= 4 ? 2 : 3;
  return (
    <div className="absolute inset-0 flex flex-col bg-surround" role="group" aria-label="Angles, compared">
      <Heading>
        Angles <span className="text-quiet">· {angles.length} side by side; Space plays them</span>
        <button type="button" className="ml-auto flex items-center gap-1 underline" onClick={end}>
          <X size={12} /> back to the picture
        </button>
      </Heading>
      <div
        className="grid min-h-0 flex-1 gap-2"
        style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`, gridAutoRows: "minmax(0, 1fr)" }}
      >
        {angles.map((a) => (
          <div key={a.id} className="flex min-h-0 min-w-0 flex-col">
            <p className="flex h-[22px] items-center gap-2">
              <span className="truncate">{a.name}</span>
              <button
                type="button"
                className="text-[11px] text-quiet underline hover:text-ink"
                onClick={() => use(a)}
              >
                use it
              </button>
            </p>
            <Pane angle={a} />
          </div>
        ))}
      </div>
    </div>
  );
}

/** The place that an angle is drawn in: as large as its format fits. */
function Pane({ angle }: { angle: Angle }) {
  const outer = useRef<HTMLDivElement>(null);
  const inner = useRef<HTMLDivElement>(null);
  const { width, height } = angle.format;
  useEffect(() => {
    const box = outer.current!;
    const el = inner.current!;
    const fit = () => {
      const r = box.getBoundingClientRect();
      const k = Math.min(r.width / width, r.height / height);
      el.style.width = `${Math.floor(width * k)}px`;
      el.style.height = `${Math.floor(height * k)}px`;
      useBench.getState().invalidate();
    };
    const watch = new ResizeObserver(fit);
    watch.observe(box);
    const pane = { el, angle: angle.id };
    useBench.setState((s) => ({ panes: [...s.panes, pane] }));
    fit();
    return () => {
      watch.disconnect();
      useBench.setState((s) => ({ panes: s.panes.filter((p) => p !== pane) }));
      useBench.getState().invalidate();
    };
  }, [angle.id, width, height]);
  return (
    <div ref={outer} className="flex min-h-0 flex-1 items-start">
      <div ref={inner} data-testid="pane" className="checker" />
    </div>
  );
}
