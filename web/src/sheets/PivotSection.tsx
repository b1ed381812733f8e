import * as THREE from "three";
import { api } from "../api/client";
import { useEdits } from "../api/queries";
import type { Part } from "../api/types.gen";
import { Button } from "../fields/controls";
import { clock } from "../state/clock";
import { say } from "../state/notices";
import { useUi } from "../state/ui";
import { usePicked, type Picked } from "../views/pick";
import { Section } from "./Section";

const triple = (v: THREE.Vector3) => v.toArray() as [number, number, number];

export function Pivot({ part }: { part: Part }) {
  const { edit } = useEdits();
  const id = useUi((s) => s.shot);
  const put = (to: string, point: [number, number, number] = [0, 0, 0]) =>
    void edit({ pivot: { part: part.id, to, point } });
  usePicked("pivot", (p) => {
    useUi.setState({ picking: null });
    put("point", triple(p.nearest));
  });
  usePicked("hole", (p) => {
    useUi.setState({ picking: null });
    api
      .hole(id!, { part: p.part, mesh: p.mesh, triangle: p.triangle, frame: 0 })
      .then((h) => put("point", h.centre))
      .catch((e: Error) => say(e.message));
  });
  const still = {
    onClick: () => {
      clock.play(0);
      clock.seek(0);
    },
  };
  return (
    <Section title="Pivot" note={part.pivot.map((v) => Number((v * 1000).toFixed(2))).join(", ")}>
      <div className="flex flex-wrap gap-1.5">
        {(["base", "middle", "origin", "parent"] as const).map((to) => (
          <Button key={to} onClick={() => put(to)}>
            {{ base: "Base", middle: "Middle", origin: "Origin", parent: "Its parent's" }[to]}
          </Button>
        ))}
        <Button
          onClick={() => {
            still.onClick();
            useUi.setState({ picking: "pivot" });
          }}
          title="A corner, the middle of an edge or a point of a face, in the bench"
        >
          Pick…
        </Button>
        <Button
          onClick={() => {
            still.onClick();
            useUi.setState({ picking: "hole" });
          }}
          title="The middle of the axis of a round hole or pin"
        >
          Hole…
        </Button>
      </div>
      <p className="mt-1.5 text-[11px] text-quiet">
        The part stays where it is; it turns and resizes about its pivot.
      </p>
    </Section>
  );
}

let from: Picked | null = null; // the face that was picked first

export function FaceToFace({ part }: { part: Part }) {
  const { edit } = useEdits();
  usePicked("from", (p) => {
    from = p;
    useUi.setState({ picking: "to" });
  });
  usePicked("to", (p) => {
    useUi.setState({ picking: null });
    if (from)
      void edit({
        faceTo: {
          part: part.id,
          from: triple(from.point),
          normal: triple(from.normal),
          to: triple(p.point),
          facing: triple(p.normal),
        },
      });
  });
  return (
    <Section title="Face to face">
      <Button
        onClick={() => {
          clock.play(0);
          clock.seek(0);
          useUi.setState({ picking: "from" });
        }}
      >
        Pick two faces…
      </Button>
    </Section>
  );
}
