import { useEffect } from "react";
import type { ShotReply } from "../api/types.gen";
import { useFrame } from "../state/clock";
import { useEvidence } from "../state/evidence";
import { reading, useMetering, useMeters } from "../state/meters";

/** Plain measurements of the whole move, beside the bench. */
export function Measures({ shot }: { shot: ShotReply }) {
  const names = new Map(shot.document.parts.map((p) => [p.id, p.name]));
  const m = shot.margins;
  const metering = useMetering((s) => s.on);
  const worst = [...shot.seam]
    .sort((a, b) => Number(b.open) - Number(a.open) || b.pixels - a.pixels)
    .slice(0, metering ? 0 : 4);
  return (
    <dl
      className="grid shrink-0 grid-cols-[1fr_auto] gap-x-2 gap-y-1.5 pt-3 text-[12px]"
      data-testid="measures"
    >
      {m && (
        <>
          <dt className="truncate">Tightest margin, whole lap</dt>
          <dd className={`font-mono ${m.tightest < 0 ? "text-coral" : ""}`} title={`on the ${m.side}`}>
            {m.tightest.toFixed(1)} % · f {Math.round(m.frame)}
          </dd>
          <dt className="truncate">Picture used</dt>
          <dd className="font-mono">{m.filled.toFixed(0)} %</dd>
        </>
      )}
      <Readings shot={shot} />
      {worst.map((g) => (
        <div key={g.part} className="contents">
          <dt className="truncate">Seam, {names.get(g.part)}</dt>
          <dd className={`font-mono ${g.open ? "text-coral" : "text-fern"}`}>{g.words}</dd>
        </div>
      ))}
      {shot.seam.length > worst.length && (
        <>
          <dt className="truncate text-quiet">{shot.seam.length - worst.length} more seams</dt>
          <dd className="font-mono text-quiet">no worse</dd>
        </>
      )}
    </dl>
  );
}

/** How the selected part goes on the frame of the playhead; the line of its distance is drawn in the views. */
function Readings({ shot }: { shot: ShotReply }) {
  const { part, list } = useMeters(shot);
  const on = useMetering((s) => s.on);
  const frame = useFrame();
  const line = list.find((m) => m.lines)?.lines;
  useEffect(() => {
    useEvidence.setState({ meter: line ?? [] });
    return () => useEvidence.setState({ meter: [] });
  }, [line]);
  if (!on || !part) return null;
  return list.map((m) => (
    <div key={m.name} className="contents">
      <dt className="truncate" title={`${m.name} of ${part.name}`}>
        {m.name}, {part.name}
      </dt>
      <dd className="font-mono">
        {reading(m.values[frame])} {m.unit}
      </dd>
    </div>
  ));
}
