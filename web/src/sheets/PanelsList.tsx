import { ArrowDown, ArrowUp } from "lucide-react";
import * as THREE from "three";
import { useKinds } from "../api/kinds";
import { useEdits } from "../api/queries";
import type { Hinged, ValueWords } from "../api/types.gen";
import { Button, Pick } from "../fields/controls";
import { select, useUi } from "../state/ui";
import { Folded, Tool } from "./Folded";
import { Num, PickButton, placeOf, type Told } from "./words";

/** The panels that unfold: about which edge, how far, when and at which pace. */
export function PanelsList({ v, panels, t }: { v: ValueWords; panels: Hinged[]; t: Told }) {
  const { edit } = useEdits();
  const selected = useUi((s) => s.selected);
  const paces = useKinds()?.paces ?? [];
  const name = (id: string) => t.shot.document.parts.find((p) => p.id === id)?.name ?? "a part that is gone";
  const put = (change: (now: Hinged[]) => Hinged[]) => t.set(v.name, change);
  const set = (k: number, c: Partial<Hinged>) =>
    put((now) => now.map((o, n) => (n === k ? { ...o, ...c } : o)));
  // Another place in the list takes the time that is kept there.
  const swap = (a: number, b: number) =>
    put((now) => {
      const list = [...now];
      const time = (o: Hinged) => ({ from: o.from, to: o.to, pace: o.pace });
      [list[a], list[b]] = [
        { ...now[b]!, ...time(now[a]!) },
        { ...now[a]!, ...time(now[b]!) },
      ];
      return list;
    });
  const hinge = (k: number, from: THREE.Vector3, to: THREE.Vector3) => {
    const own = placeOf(panels[k]!.part);
    if (!own) return;
    const metre = Math.cbrt(Math.abs(own.determinant())) || 1;
    const back = own.clone().invert();
    const [a, b] = [from.clone().applyMatrix4(back), to.clone().applyMatrix4(back)];
    const axis = b.clone().sub(a).normalize();
    if (axis.length() < 0.5) return;
    const was = new THREE.Vector3(...(panels[k]!.axis as [number, number, number]));
    if (axis.dot(was) < 0) axis.negate(); // it keeps turning the same way
    set(k, { axis: axis.toArray(), at: a.multiplyScalar(metre).toArray() });
  };
  return (
    <Folded words={`${panels.length} ${panels.length === 1 ? "hinge" : "hinges"}`} label="Panels">
      {panels.map((h, k) => (
        <span
          key={h.part}
          role="listitem"
          className={`block border-t border-line px-1.5 py-0.5 first:border-t-0 ${h.part === selected ? "bg-verdigris/20" : ""}`}
        >
          <span className="flex items-center gap-1">
            <span className="w-4 font-mono text-[10px] text-quiet">{k + 1}</span>
            <button
              type="button"
              className="min-w-0 flex-1 truncate text-left hover:underline"
              title={name(h.part)}
              onClick={() => select(h.part)}
            >
              {name(h.part)}
            </button>
            <Tool label={`Panel ${k + 1} earlier`} disabled={k === 0} onClick={() => swap(k - 1, k)}>
              <ArrowUp size={12} />
            </Tool>
            <Tool
              label={`Panel ${k + 1} later`}
              disabled={k === panels.length - 1}
              onClick={() => swap(k, k + 1)}
            >
              <ArrowDown size={12} />
            </Tool>
          </span>
          <span className="block pl-5">
            turns{" "}
            <Num
              label={`Angle of panel ${k + 1}`}
              value={h.angle}
              kind="angle"
              onChange={(angle) => set(k, { angle })}
            />{" "}
            about an edge{" "}
            <PickButton
              label={`Edge of panel ${k + 1}`}
              picks="place"
              then={(hit) => hinge(k, hit.edge, hit.vertex)}
            />
            , from{" "}
            <Num
              label={`Panel ${k + 1} begins`}
              value={h.from * 100}
              kind="percent"
              digits={1}
              min={0}
              max={Math.max(0, h.to * 100 - 0.1)}
              onChange={(x) => set(k, { from: x / 100 })}
            />{" "}
            to{" "}
            <Num
              label={`Panel ${k + 1} ends`}
              value={h.to * 100}
              kind="percent"
              digits={1}
              min={h.from * 100 + 0.1}
              max={100}
              onChange={(x) => set(k, { to: x / 100 })}
            />
            , at{" "}
            <Pick
              inline
              label={`Pace of panel ${k + 1}`}
              value={h.pace.kind}
              choices={[
                { value: "", name: "the pace of all" },
                ...paces
                  .filter((p) => p.kind !== "drawn")
                  .map((p) => ({ value: p.kind as string, name: p.name })),
              ]}
              onChange={(kind) =>
                set(k, {
                  pace: kind ? paces.find((p) => p.kind === kind)!.first : { kind: "" },
                } as Partial<Hinged>)
              }
            />
          </span>
        </span>
      ))}
      <span className="block border-t border-line p-1.5">
        <Button
          title="Looks for the edges that its panels share as they lie at rest"
          onClick={() => void edit({ findHinges: { part: t.part.id } })}
        >
          Find the hinges anew
        </Button>
      </span>
    </Folded>
  );
}
