import type { Line } from "../api/types.gen";

/** Evidence over a picture of a size in pixels. */
export function EvidenceLines({ lines, width, height }: { lines: Line[]; width: number; height: number }) {
  return (
    <g className="fill-none" strokeOpacity={1} data-testid="evidence">
      {lines.map((l, k) => {
        const at = l.picture.map(([x, y]) => [x! * width, y! * height] as const);
        if (at.length < 2) return null;
        const [a, b] = [at.at(-2)!, at.at(-1)!];
        const long = Math.hypot(b[0] - a[0], b[1] - a[1]);
        const head = l.arrow && long > 3 ? Math.min(9, long / 2) : 0;
        const [u, v] = [((b[0] - a[0]) / long) * head, ((b[1] - a[1]) / long) * head];
        const d =
          at.map(([x, y], i) => `${i ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("") +
          (head > 0
            ? `M${b[0] - u - v / 2} ${b[1] - v + u / 2}L${b[0]} ${b[1]}L${b[0] - u + v / 2} ${b[1] - v - u / 2}`
            : "");
        const ends = l.arrow || at.length > 2 ? [] : at;
        return ["stroke-ground", "stroke-coral"].map((colour, n) => (
          <g key={`${k} ${n}`} className={colour} strokeWidth={n ? 1.5 : 3.5}>
            <path d={d} />
            {ends.map(([x, y], i) => (
              <circle key={i} cx={x} cy={y} r={2.5} />
            ))}
          </g>
        ));
      })}
    </g>
  );
}
