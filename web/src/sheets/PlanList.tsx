import { ArrowDown, ArrowUp, CornerUpRight, Trash2 } from "lucide-react";
import { useState } from "react";
import * as THREE from "three";
import { planAnew, usePlanning } from "../api/apart";
import { api } from "../api/client";
import { useEdits } from "../api/queries";
import type { ApartStep, ValueWords } from "../api/types.gen";
import { Button, Pick } from "../fields/controls";
import { useProgress } from "../state/progress";
import { select, useUi } from "../state/ui";
import { Folded, Tool } from "./Folded";
import { Num, PickButton, placeOf, type Told } from "./words";

type Triple = [number, number, number];

const ways: [string, Triple][] = [
  ["up", [0, 1, 0]],
  ["down", [0, -1, 0]],
  ["to the right", [1, 0, 0]],
  ["to the left", [-1, 0, 0]],
  ["to the front", [0, 0, 1]],
  ["to the back", [0, 0, -1]],
];

/** The frame of a part's parent in the room: at rest, or on the frame of the playhead. */
function frameOf(t: Told, part: string, now = false): THREE.Matrix4 {
  const parts = t.shot.document.parts;
  let up = parts.find((p) => p.id === part)?.parent;
  if (now) return (up && placeOf(up)) || new THREE.Matrix4();
  const m = new THREE.Matrix4();
  for (let p = parts.find((o) => o.id === up); p; p = parts.find((o) => o.id === up)) {
    const { position, rotation, size } = p.rest;
    m.premultiply(
      new THREE.Matrix4().compose(
        new THREE.Vector3(...position),
        new THREE.Quaternion(...rotation),
        new THREE.Vector3(...size),
      ),
    );
    up = p.parent;
  }
  return m;
}

/** A direction of the room in a frame, and one of a frame in the room; unit vectors. */
const into = (frame: THREE.Matrix4, room: Triple): Triple =>
  new THREE.Vector3(...room).transformDirection(frame.clone().invert()).toArray();
const outOf = (frame: THREE.Matrix4, way: Triple) => new THREE.Vector3(...way).transformDirection(frame);

/** The way on which a part goes on after its own: upwards, or to the right after an upright one. */
function bent(t: Told, p: ApartStep["parts"][number]): Triple {
  const frame = frameOf(t, p.part);
  return into(frame, Math.abs(outOf(frame, p.way as Triple).y) > 0.7 ? [1, 0, 0] : [0, 1, 0]);
}

/** The steps in which something comes apart: their order, the way and the distance of each. */
export function PlanList({ v, steps, t }: { v: ValueWords; steps: ApartStep[]; t: Told }) {
  const [dragged, setDragged] = useState<number | null>(null);
  const { edit } = useEdits();
  const selected = useUi((s) => s.selected);
  const planning = usePlanning((s) => s.part) === t.part.id;
  const [gap, setGap] = useState(0);
  const [seen, setSeen] = useState(40);
  const [inPixels, setInPixels] = useState(false);
  const [deep, setDeep] = useState(false);
  const [stays, setStays] = useState("");
  const wish = { part: t.part.id, ...(inPixels ? { seen } : { gap }), deep, stays };
  const put = (change: (now: ApartStep[]) => ApartStep[]) => t.set(v.name, change);
  const parts = t.shot.document.parts;
  const name = (id: string) => parts.find((p) => p.id === id)?.name ?? "a part that is gone";
  const goes = new Set(steps.flatMap((s) => s.parts.map((p) => p.part)));
  const parents = new Set(parts.filter((p) => goes.has(p.id)).map((p) => p.parent));
  const staying = parts.filter(
    (p) => parents.has(p.parent) && !goes.has(p.id) && ["solid", "shape", "group", "plinth"].includes(p.kind),
  );
  const words = (s: ApartStep) =>
    s.parts.length > 2
      ? `${name(s.parts[0]!.part)} and ${s.parts.length - 1} more`
      : s.parts.map((p) => name(p.part)).join(", ");
  const wayOf = (s: ApartStep) => {
    const p = s.parts[0]!;
    const room = outOf(frameOf(t, p.part), p.way as Triple);
    const i = ways.findIndex(([, w]) => room.dot(new THREE.Vector3(...w)) > 0.999);
    const alike = s.parts.every((q) => q.way.every((x, k) => Math.abs(x - p.way[k]!) < 1e-6));
    return {
      i,
      words: !alike
        ? "each its own way"
        : i >= 0
          ? ways[i]![0]
          : room
              .toArray()
              .map((x) => x.toFixed(2))
              .join(", "),
    };
  };
  const turn = (k: number, room: Triple, seen = false) =>
    put((now) =>
      now.map((s, n) =>
        n !== k
          ? s
          : {
              ...s,
              parts: s.parts.map((p) => ({
                ...p,
                way: into(frameOf(t, p.part, seen), room),
              })),
            },
      ),
    );
  const move = (from: number, to: number) =>
    put((now) => {
      const list = [...now];
      const [one] = list.splice(from, 1);
      list.splice(to, 0, one!);
      return list;
    });
  return (
    <>
      <Folded words={`${steps.length} ${steps.length === 1 ? "step" : "steps"}`} label="Steps">
        {steps.map((s, k) => {
          const way = wayOf(s);
          const on = s.parts.some((p) => p.part === selected);
          return (
            <span
              key={k}
              role="listitem"
              draggable
              onDragStart={() => setDragged(k)}
              onDragOver={(e) => e.preventDefault()}
              onDrop={() => {
                if (dragged !== null && dragged !== k) move(dragged, k);
                setDragged(null);
              }}
              className={`block border-t border-line px-1.5 py-0.5 first:border-t-0 ${on ? "bg-verdigris/20" : ""}`}
            >
              <span className="flex items-center gap-1">
                <span className="w-4 cursor-grab font-mono text-[10px] text-quiet">{k + 1}</span>
                <button
                  type="button"
                  className="min-w-0 flex-1 truncate text-left hover:underline"
                  title={s.parts.map((p) => name(p.part)).join(", ")}
                  onClick={() => select(s.parts[0]!.part)}
                >
                  {words(s)}
                </button>
                <Tool label={`Step ${k + 1} earlier`} disabled={k === 0} onClick={() => move(k, k - 1)}>
                  <ArrowUp size={12} />
                </Tool>
                <Tool
                  label={`Step ${k + 1} later`}
                  disabled={k === steps.length - 1}
                  onClick={() => move(k, k + 1)}
                >
                  <ArrowDown size={12} />
                </Tool>
                <Tool
                  label={`Bend the way of step ${k + 1}`}
                  title="Another straight piece of its way, right after this one"
                  onClick={() =>
                    put((now) => [
                      ...now.slice(0, k + 1),
                      { by: s.by, parts: s.parts.map((p) => ({ ...p, way: bent(t, p) })) },
                      ...now.slice(k + 1),
                    ])
                  }
                >
                  <CornerUpRight size={12} />
                </Tool>
                <Tool
                  label={`Leave out step ${k + 1}`}
                  title="It stays where it is"
                  onClick={() => put((now) => now.filter((_, n) => n !== k))}
                >
                  <Trash2 size={12} />
                </Tool>
              </span>
              <span className="block pl-5">
                <Pick
                  inline
                  label={`Way of step ${k + 1}`}
                  value={way.i}
                  choices={[
                    ...(way.i < 0 ? [{ value: -1, name: way.words }] : []),
                    ...ways.map(([n], i) => ({ value: i, name: way.i === i ? way.words : n })),
                  ]}
                  onChange={(i) => i >= 0 && turn(k, ways[i]![1])}
                />{" "}
                <PickButton
                  label={`Way of step ${k + 1}`}
                  picks="axis"
                  then={(hit) => turn(k, hit.normal.toArray(), true)}
                />{" "}
                by{" "}
                <Num
                  label={`Distance of step ${k + 1}`}
                  value={s.by}
                  kind="length"
                  onChange={(by) => put((now) => now.map((o, n) => (n === k ? { ...o, by } : o)))}
                />
                , after a wait of{" "}
                <Num
                  label={`Wait of step ${k + 1}`}
                  value={100 * (s.wait ?? 0)}
                  kind="percent"
                  min={0}
                  onChange={(wait) =>
                    put((now) =>
                      now.map((o, n) => (n === k ? { ...o, wait: wait === 0 ? undefined : wait / 100 } : o)),
                    )
                  }
                />
              </span>
            </span>
          );
        })}
        {staying.length > 0 && (
          <span className="block border-t border-line px-1.5 text-quiet">
            {staying.slice(0, 6).map((p, i) => (
              <span key={p.id}>
                {i > 0 && ", "}
                <button
                  type="button"
                  className="stitched"
                  title="Let it leave, too: upwards, as the last step"
                  onClick={() =>
                    put((now) => [
                      ...now,
                      {
                        parts: [
                          {
                            part: p.id,
                            way: into(frameOf(t, p.id), [0, 1, 0]),
                          },
                        ],
                        by: now.at(-1)?.by ?? 0.05,
                      },
                    ])
                  }
                >
                  {p.name}
                </button>
              </span>
            ))}
            {staying.length > 6 && ` and ${staying.length - 6} more`}{" "}
            {staying.length === 1 ? "stays" : "stay"}
          </span>
        )}
        <span className="block border-t border-line px-1.5">
          Plan anew with{" "}
          {inPixels ? (
            <Num
              label="Gap between parts in the picture"
              value={seen}
              kind="number"
              unit="px"
              min={0}
              onChange={setSeen}
            />
          ) : (
            <Num label="Gap between parts" value={gap} kind="length" min={0} onChange={setGap} />
          )}{" "}
          <Pick
            inline
            label="How the gap is measured"
            value={inPixels ? "picture" : "room"}
            choices={[
              { value: "room", name: gap === 0 ? "(as it suits)" : "in the room" },
              { value: "picture", name: "in the picture" },
            ]}
            onChange={(x) => setInPixels(x === "picture")}
          />{" "}
          between parts,{" "}
          <Pick
            inline
            label="Groups in it"
            value={deep ? "opened" : "whole"}
            choices={[
              { value: "whole", name: "groups whole" },
              { value: "opened", name: "groups opened, too" },
            ]}
            onChange={(x) => setDeep(x === "opened")}
          />
          ;{" "}
          <Pick
            inline
            label="What stays"
            value={stays}
            choices={[
              { value: "", name: "what lies lowest" },
              ...parts.filter((p) => parents.has(p.parent)).map((p) => ({ value: p.id, name: p.name })),
            ]}
            onChange={setStays}
          />{" "}
          stays.{" "}
          <Button disabled={planning} onClick={() => void planAnew(t.shot, t.move.id, wish, edit)}>
            Plan
          </Button>{" "}
          <Button
            disabled={planning}
            title="The order and the ways stay; each goes as far as it takes to clear what is near"
            onClick={() => void planAnew(t.shot, t.move.id, { ...wish, steps }, edit)}
          >
            Distances alone
          </Button>
        </span>
      </Folded>
      {planning && <Planning shot={t.shot.id} />}
    </>
  );
}

/** How far it has been found out how something comes apart. */
export function Planning({ shot }: { shot: string }) {
  const share = useProgress((s) => (s.apart?.id === shot ? s.apart.share : 0));
  return (
    <span className="my-1 flex items-center gap-2 text-[12px] text-quiet" role="status">
      Finding how it comes apart: {Math.round(share * 100)} %
      <Button onClick={() => void api.stopApart(shot)}>Stop</Button>
    </span>
  );
}
