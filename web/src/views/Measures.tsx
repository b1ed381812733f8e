import type { ShotReply } from "../api/types.gen";

/** Plain measurements of the whole move, beside the bench. */
export function Measures({ shot }: { shot: ShotReply }) {
  const names = new Map(shot.document.parts.map((p) => [p.id, p.name]));
  const m = shot.margins;
  const worst = [...shot.seam]
    .sort((a, b) => Number(b.open) - Number(a.open) || b.pixels - a.pixels)
    .slice(0, 4);
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
