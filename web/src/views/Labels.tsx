import { useBake } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { useFrame } from "../state/clock";

/** The labels of the picture on the frame of the playhead, where the core has laid them out. */
export function Labels({ shot, width, height }: { shot: ShotReply; width: number; height: number }) {
  const bake = useBake(shot);
  const frame = useFrame();
  if (!bake || bake.labels.length === 0) return null;
  const side = Math.min(width, height);
  return (
    <g transform={`scale(${side})`} stroke="none" data-testid="labels">
      {bake.labels.map((l, k) => {
        const [x, y, x0, y0, x1, y1, x2, y2, there] = Array.from(l.at(frame));
        if (!there) return null;
        const colour = l.dark ? "#202020" : "#f3f3f3"; // darkLetters and lightLetters of core/render/label.go, as sRGB
        const wide = Math.max(1 / side, 1 / 600); // of the line, as stroke in core/render/label.go has it
        return (
          <g key={k} opacity={there} fill={colour}>
            <path d={`M${x0} ${y0}L${x1} ${y1}L${x2} ${y2}`} fill="none" stroke={colour} strokeWidth={wide} />
            <circle cx={x0} cy={y0} r={1.5 * wide} />
            <path transform={`translate(${x!} ${y!}) scale(${l.size / 1000})`} d={l.letters} />
          </g>
        );
      })}
    </g>
  );
}
