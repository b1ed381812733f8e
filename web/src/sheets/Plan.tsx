import type { ReactNode, Ref } from "react";
import { lengths } from "../fields/lengths";

/** The side of a plan, pixels of its own. */
export const side = 292;
export const half = side / 2;

/** How many pixels a metre is on a plan that reaches so far round its middle. */
export const scaleOf = (reach: number) => (half - 26) / reach;

const cut = 12; // pixels of the square that are left out above and below

/** Where a pointer is on a plan, in its pixels from the middle. */
export function pointed(svg: SVGSVGElement, e: { clientX: number; clientY: number }): [number, number] {
  const r = svg.getBoundingClientRect();
  const k = side / r.width;
  return [(e.clientX - r.left) * k - half, (e.clientY - r.top) * k + cut - half];
}

/** A plan from above, to scale: what the shot is about in the middle, its front below, rings to read distances by. */
export function Plan({
  label,
  reach,
  size,
  svg,
  children,
}: {
  label: string;
  reach: number; // metres from the middle to the edge
  size: number; // metres from the middle to where the object ends
  svg: Ref<SVGSVGElement>;
  children: ReactNode;
}) {
  const scale = scaleOf(reach);
  const step = Math.pow(10, Math.floor(Math.log10(reach)));
  const rings = [1, 2, 5].map((k) => k * step).filter((r) => r * scale < half && r * scale > 20);
  return (
    <svg
      ref={svg}
      viewBox={`0 ${cut} ${side} ${side - 2 * cut}`}
      className="mt-1 block w-full rounded-sm bg-ground select-none"
      role="group"
      aria-label={label}
    >
      {rings.map((r) => (
        <g key={r}>
          <circle cx={half} cy={half} r={r * scale} className="fill-none stroke-line" />
          <text x={half + 3} y={half - r * scale - 2} className="fill-quiet text-[9px]">
            {lengths([r], "", 2)}
          </text>
        </g>
      ))}
      <circle cx={half} cy={half} r={Math.max(3, size * scale)} className="fill-raised stroke-quiet" />
      {children}
      <text x={half} y={side - cut - 5} textAnchor="middle" className="fill-quiet text-[9px]">
        front
      </text>
    </svg>
  );
}
