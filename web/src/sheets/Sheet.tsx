import { useEffect, useRef } from "react";
import type { ShotReply } from "../api/types.gen";
import { usePane } from "../state/panes";
import { useUi, type Step } from "../state/ui";
import { Arrange } from "./Arrange";
import { Arrived } from "./Arrived";
import { CheckList } from "./CheckList";
import { FrameSheet } from "./FrameSheet";
import { LightSheet } from "./LightSheet";
import { MoveSheet } from "./MoveSheet";
import { RenderSheet } from "./RenderSheet";

const sheets: Record<Step, (p: { shot: ShotReply }) => React.ReactNode> = {
  "Bring in": Arrived,
  Arrange,
  Move: MoveSheet,
  Frame: FrameSheet,
  Light: LightSheet,
  Check: CheckList,
  Render: RenderSheet,
};

/** The right-hand side: what the step and the selection call for. */
export function Sheet({ shot }: { shot: ShotReply }) {
  const step = useUi((s) => s.step);
  const selected = useUi((s) => s.selected);
  const ref = useRef<HTMLElement>(null);
  useEffect(() => {
    ref.current?.scrollTo(0, 0); // what was selected is at the top
  }, [step, selected]);
  const Content = sheets[step];
  const size = usePane("sheet");
  return (
    <aside
      ref={ref}
      className="shrink-0 overflow-y-auto border-l border-line bg-panel"
      style={{ width: size }}
      aria-label={step}
    >
      <Content shot={shot} />
    </aside>
  );
}
