import { useRef, useState } from "react";
import * as THREE from "three";
import { api } from "../api/client";
import { useEdits } from "../api/queries";
import type { Part, ShotReply } from "../api/types.gen";
import { Button, Pick } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { clock } from "../state/clock";
import { say } from "../state/notices";
import { useUi } from "../state/ui";
import { usePicked, type Picked } from "../views/pick";
import { Section } from "./Section";
import { useMeasured } from "./SizeSection";

const triple = (v: THREE.Vector3) => v.toArray() as [number, number, number];

export function Pivot({ shot, part }: { shot: ShotReply; part: Part }) {
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
  const m = useMeasured(shot, part.id);
  const [about, setAbout] = useState<"base" | "middle" | "room">("base");
  const first = useRef<THREE.Vector3 | null>(null);
  usePicked("between", (p) => {
    if (!first.current) {
      first.current = p.nearest.clone();
      return;
    }
    const middle = first.current.clone().add(p.nearest).multiplyScalar(0.5);
    first.current = null;
    useUi.setState({ picking: null });
    put("point", triple(middle));
  });
  const box = m && { low: m.low as number[], high: m.high as number[], at: m.pivot as number[] };
  const zero = box
    ? [0, 1, 2].map((k) =>
        about === "room" ? 0 : about === "base" && k === 1 ? box.low[1]! : (box.low[k]! + box.high[k]!) / 2,
      )
    : [0, 0, 0];
  return (
    <Section title="Pivot">
      {box && (
        <>
          <Pick
            label="Told from"
            value={about}
            choices={[
              { value: "base", name: "the middle of its base" },
              { value: "middle", name: "its middle" },
              { value: "room", name: "the middle of the room" },
            ]}
            onChange={setAbout}
          />
          {["Right", "Up", "Forwards"].map((label, k) => (
            <NumberField
              key={label}
              label={`Pivot, ${label.toLowerCase()}`}
              kind="length"
              unit="mm"
              digits={2}
              value={box.at[k]! - zero[k]!}
              disabled={part.locked}
              onChange={(v) =>
                put("point", box.at.map((x, i) => (i === k ? v + zero[k]! : x)) as [number, number, number])
              }
            />
          ))}
        </>
      )}
      <div className="mt-1 flex flex-wrap gap-1.5">
        {(["base", "middle", "top", "origin", "parent"] as const).map((to) => (
          <Button key={to} onClick={() => put(to)}>
            {{ base: "Base", middle: "Middle", top: "Top", origin: "Origin", parent: "Its parent's" }[to]}
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
        <Button
          onClick={() => {
            still.onClick();
            first.current = null;
            useUi.setState({ picking: "between" });
          }}
          title="Press two points: the pivot comes to the middle between them, such as an axle between two wheels"
        >
          Between two…
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
