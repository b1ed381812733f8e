import { X } from "lucide-react";
import * as THREE from "three";
import { api } from "../api/client";
import type { ShotReply } from "../api/types.gen";
import { Button } from "../fields/controls";
import { clock } from "../state/clock";
import { begin, diameter, point, thickness, useMeasures } from "../state/measures";
import { say } from "../state/notices";
import { useUi } from "../state/ui";
import { useBench } from "../views/benchStore";
import { usePicked } from "../views/pick";
import { Section } from "./Section";

/** Measures between points of the bench, of round holes and of walls. */
export function MeasureSection({ shot }: { shot: ShotReply }) {
  const { kind, points, done } = useMeasures();
  const picking = useUi((s) => s.picking);
  usePicked("point", (p) => {
    if (point(p.nearest)) useUi.setState({ picking: null });
    useBench.getState().invalidate();
  });
  usePicked("diameter", (p) => {
    useUi.setState({ picking: null });
    api
      .hole(shot.id, { part: p.part, mesh: p.mesh, triangle: p.triangle, frame: clock.frame })
      .then((h) => diameter(new THREE.Vector3(...h.centre), new THREE.Vector3(...h.axis), h.radius))
      .then(() => useBench.getState().invalidate())
      .catch((e: Error) => say(e.message));
  });
  usePicked("thickness", (p) => {
    useUi.setState({ picking: null });
    // Straight in from the wall to the first face that looks the other way, of the same part.
    const ray = new THREE.Raycaster(p.point, p.normal.clone().negate());
    const far = ray
      .intersectObjects(useBench.getState().stage?.objects() ?? [], true)
      .find((h) => h.object.userData.part === p.part && h.distance > 1e-7);
    if (!far) return say("Nothing of the part lies behind that wall; it is open there.");
    thickness(p.point, far.point);
    useBench.getState().invalidate();
  });
  const start = (what: "point" | "diameter" | "thickness", of: "distance" | "angle" | null = null) => {
    clock.play(0);
    begin(of);
    useUi.setState({ picking: what });
  };
  return (
    <Section title="Measure">
      <div className="flex flex-wrap gap-1.5">
        <Button onClick={() => start("point", "distance")}>Distance</Button>
        <Button onClick={() => start("point", "angle")}>Angle</Button>
        <Button onClick={() => start("diameter")}>Diameter</Button>
        <Button onClick={() => start("thickness")}>Thickness</Button>
      </div>
      {picking === "point" && (
        <p className="mt-1.5 text-[11px] text-quiet" role="status">
          {kind === "angle"
            ? ["A point on the first side…", "the corner…", "a point on the second side…"][points.length]
            : ["From…", "to…"][points.length]}
        </p>
      )}
      {done.length > 0 && (
        <ul className="mt-1.5" aria-label="Measured">
          {done.map((m, i) => (
            <li key={i} className="flex h-[22px] items-center gap-2 font-mono text-[12px]">
              <span className="flex-1 truncate" title={m.words}>
                {m.words}
              </span>
              <button
                type="button"
                aria-label="Forget it"
                className="text-quiet hover:text-ink"
                onClick={() => {
                  useMeasures.setState({ done: done.filter((_, k) => k !== i) });
                  useBench.getState().invalidate();
                }}
              >
                <X size={11} />
              </button>
            </li>
          ))}
        </ul>
      )}
    </Section>
  );
}
