import * as THREE from "three";
import { setPart } from "../api/edits";
import { newId } from "../api/ids";
import { useKinds } from "../api/kinds";
import { useEdits } from "../api/queries";
import type { Part, ShotReply } from "../api/types.gen";
import { Button, Pick, Row, TextField, Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { ask } from "../screen/ask";
import { clock } from "../state/clock";
import { choose, select, useUi } from "../state/ui";
import { CopiesFields } from "./CopiesFields";
import { CutterFields } from "./CutterFields";
import { MarkFields } from "./MarkFields";
import { MorphFields } from "./MorphFields";
import { MeasureSection } from "./MeasureSection";
import { NumbersSection } from "./NumbersSection";
import { FaceToFace, Pivot } from "./PivotSection";
import { Section } from "./Section";
import { SizeSection } from "./SizeSection";
import { FloorFields, PlinthFields } from "./SetFields";
import { ShapeFields } from "./ShapeFields";

const turn = 2 * Math.PI;

/** The tree and the places of what is selected. */
export function Arrange({ shot }: { shot: ShotReply }) {
  const chosen = useUi((s) => s.chosen);
  const parts = shot.document.parts.filter((p) => chosen.includes(p.id));
  const part = shot.document.parts.find((p) => p.id === chosen.at(-1));
  return (
    <>
      {!part ? (
        <Section title="Arrange">
          <p className="text-quiet">
            Select a part in the tree, the picture or the bench to name it, place it, resize it or hide it. A
            first click takes the whole group, the next one goes a level deeper; with Shift it is added to the
            selection. Add, above the tree, makes a shape, a word, a group, a cutter, a camera or a light.
          </p>
        </Section>
      ) : parts.length > 1 ? (
        <Several shot={shot} parts={parts} />
      ) : (
        <One shot={shot} part={part} />
      )}
      <MeasureSection shot={shot} />
    </>
  );
}

const tags = ["", "#d2a94e", "#46b5a0", "#a78bd0", "#7fb069", "#f0705a"];

/** What works for one part and for several alike. */
function Common({ shot, parts }: { shot: ShotReply; parts: Part[] }) {
  const { edit, make } = useEdits();
  const ids = parts.map((p) => p.id);
  const all = (f: (p: Part) => boolean) => parts.every(f);
  const mark = (m: { hidden?: boolean; away?: boolean; locked?: boolean; tag?: string }) =>
    void edit({ flag: { parts: ids, ...m } });
  const group = async () => {
    const name = await ask({ title: "Name of the group", value: "Group", yes: "Group" });
    const id = newId();
    if (name !== null && (await edit({ group: { parts: ids, id, name } }))) select(id);
  };
  const similar = (f: (p: Part) => boolean) => choose(shot.document.parts.filter(f).map((p) => p.id));
  const first = parts[0]!;
  return (
    <>
      <Section title="Tree">
        <div className="flex flex-wrap gap-1.5">
          <Button onClick={() => void group()} title="Ctrl G">
            Group…
          </Button>
          {parts.length === 1 && first.kind === "group" && (
            <Button onClick={() => void edit({ ungroup: { part: first.id } })}>Ungroup</Button>
          )}
          <Button
            onClick={() => void make({ duplicate: { parts: ids, id: newId() } })}
            title="Ctrl D: an own copy"
          >
            Duplicate
          </Button>
          {parts.length === 1 && !first.copies && !first.camera && !first.light && first.kind !== "floor" && (
            <Button
              onClick={() => {
                const id = newId();
                void edit({ addCopies: { of: first.id, id } }).then((ok) => ok && select(id));
              }}
              title="Linked copies in a row, grid, ring, along a path or scattered"
            >
              Copies
            </Button>
          )}
          {parts.length === 1 && ["group", "solid", "shape"].includes(first.kind) && (
            <Button
              onClick={() => void make({ addCutter: { of: first.id, opens: true, id: newId() } })}
              title="A cutter slides over the quarter that faces the camera, and shows what is inside"
            >
              Open up
            </Button>
          )}
          {(first.materials?.length ?? 0) > 0 && (
            <Button
              onClick={() =>
                similar((p) => (p.materials ?? []).some((m) => m !== "" && first.materials!.includes(m)))
              }
            >
              Same material
            </Button>
          )}
          {first.mesh && (
            <Button
              onClick={() =>
                similar((p) => p.mesh?.asset === first.mesh!.asset && p.mesh.mesh === first.mesh!.mesh)
              }
            >
              Same mesh
            </Button>
          )}
          <Button
            onClick={() => void edit({ remove: { parts: ids } }).then((ok) => ok && select(null))}
            title="Delete"
          >
            Remove
          </Button>
        </div>
        <div className="mt-1.5">
          <Toggle label="In the render" on={all((p) => !p.hidden)} onChange={(on) => mark({ hidden: !on })} />
          <Toggle label="In the bench" on={all((p) => !p.away)} onChange={(on) => mark({ away: !on })} />
          <Toggle label="Locked" on={all((p) => !!p.locked)} onChange={(on) => mark({ locked: on })} />
          <Row label="Tag">
            <span className="flex gap-1">
              {tags.map((t) => (
                <button
                  key={t}
                  type="button"
                  aria-label={t ? `Tag ${t}` : "No tag"}
                  aria-pressed={all((p) => (p.tag ?? "") === t)}
                  onClick={() => mark({ tag: t })}
                  className={`size-[16px] rounded-full border ${all((p) => (p.tag ?? "") === t) ? "border-ink" : "border-line"}`}
                  style={{ background: t || "transparent" }}
                />
              ))}
            </span>
          </Row>
        </div>
      </Section>
      <NumbersSection shot={shot} ids={ids} />
      <Section title="Stand">
        <div className="flex flex-wrap gap-1.5">
          <Button
            onClick={() => void edit({ stand: { parts: ids, sink: 0 } })}
            title="The exact lowest point on the floor, or on the plinth"
          >
            Stand
          </Button>
          <Button
            onClick={() => void edit({ centre: { parts: ids } })}
            title="The smallest circle round its footprint, on the axis of what it is in"
          >
            Centre
          </Button>
          <Button
            onClick={() => void edit({ faceCamera: { parts: ids } })}
            title="Turned about the upright axis until its front looks at the camera"
          >
            Face camera
          </Button>
          <Button
            onClick={() => void edit({ reset: { parts: ids } })}
            title="No place, turn or size of its own"
          >
            Reset
          </Button>
          <Button
            onClick={() => void edit({ restHere: { parts: ids, frame: clock.frame } })}
            title="The pose on this frame becomes the rest pose"
          >
            Rest here
          </Button>
        </div>
      </Section>
    </>
  );
}

function Several({ shot, parts }: { shot: ShotReply; parts: Part[] }) {
  const { edit } = useEdits();
  const ids = parts.map((p) => p.id);
  const rename = async () => {
    const pattern = await ask({
      title: `Names of ${parts.length} parts`,
      text: "{name} is the name that a part has, {n} counts from 1.",
      value: "{name} {n}",
      yes: "Rename",
    });
    if (pattern !== null) void edit({ renameParts: { parts: ids, pattern } });
  };
  return (
    <>
      <Section title={`${parts.length} parts`}>
        <Button onClick={() => void rename()}>Rename…</Button>
      </Section>
      <Common shot={shot} parts={parts} />
      <Section title="Place" note="each in what it is in">
        {["Right, x", "Up, y", "Forwards, z"].map((label, i) => (
          <NumberField
            key={label}
            label={label}
            value={parts[0]!.rest.position[i]!}
            mixed={parts.some((p) => Math.abs(p.rest.position[i]! - parts[0]!.rest.position[i]!) > 1e-9)}
            kind="length"
            unit="mm"
            digits={3}
            disabled={parts.some((p) => p.locked)}
            onChange={(v) =>
              void edit((now) =>
                now.document.parts
                  .filter((p) => ids.includes(p.id))
                  .map((p) => setPart(p.id, { rest: { position: replaced(p.rest.position, i, v) } })),
              )
            }
          />
        ))}
      </Section>
      <SizeSection shot={shot} parts={parts} />
      <Section title="Align and space out">
        {["x", "y", "z"].map((name, axis) => (
          <Row key={name} label={name}>
            <span className="flex gap-1">
              {(["low", "middle", "high"] as const).map((to) => (
                <Button key={to} onClick={() => void edit({ align: { parts: ids, axis, to } })}>
                  {to}
                </Button>
              ))}
              <Button
                disabled={parts.length < 3}
                onClick={() => void edit({ distribute: { parts: ids, axis } })}
              >
                even
              </Button>
            </span>
          </Row>
        ))}
      </Section>
    </>
  );
}

function One({ shot, part }: { shot: ShotReply; part: Part }) {
  const { edit } = useEdits();
  const set = (change: object) => void edit(setPart(part.id, change));
  const rest = (change: (now: Part["rest"]) => Partial<Part["rest"]>) =>
    void edit((now) => {
      const p = now.document.parts.find((p) => p.id === part.id);
      return p ? setPart(part.id, { rest: change(p.rest) }) : [];
    });
  const fitted = part.camera?.fitted ?? false;
  const fronts = useKinds()?.fronts ?? [];
  const still = fitted || part.locked === true;
  const euler = anglesOf(part.rest.rotation);
  const spin = (k: number, v: number) =>
    rest((r) => {
      const e = anglesOf(r.rotation);
      e[(["x", "y", "z"] as const)[k]!] = v * turn;
      const q = new THREE.Quaternion().setFromEuler(e);
      return { rotation: [q.x, q.y, q.z, q.w] };
    });
  return (
    <>
      <Section title={part.name} note={part.shape ? part.shape.kind : part.kind}>
        <TextField label="Name" value={part.name} onChange={(name) => set({ name })} />
      </Section>
      {part.shape && <ShapeFields key={part.id} shot={shot} part={part} />}
      {part.mark && <MarkFields key={part.id} part={part} />}
      {part.copies && <CopiesFields shot={shot} part={part} />}
      {!!part.morphs?.length && <MorphFields part={part} />}
      {part.cut && <CutterFields shot={shot} part={part} />}
      {part.plinth && <PlinthFields part={part} />}
      {part.kind === "floor" && <FloorFields shot={shot} part={part} />}
      <Common shot={shot} parts={[part]} />
      <Section
        title={part.moves.length > 0 || part.tracks?.length ? "Place at rest" : "Place"}
        note={part.parent ? "in what it is in" : "in the room"}
      >
        {(["x", "y", "z"] as const).map((axis, i) => (
          <NumberField
            key={axis}
            label={["Right, x", "Up, y", "Forwards, z"][i]!}
            value={part.rest.position[i]!}
            kind="length"
            unit="mm"
            digits={3}
            disabled={still}
            onChange={(v) => rest((r) => ({ position: replaced(r.position, i, v) }))}
          />
        ))}
        {(["x", "y", "z"] as const).map((axis, i) => (
          <NumberField
            key={axis}
            label={`Turn about ${axis}`}
            value={euler[axis] / turn}
            kind="angle"
            unit="°"
            digits={3}
            disabled={still}
            onChange={(v) => spin(i, v)}
          />
        ))}
        {!part.camera && !part.light && part.kind !== "floor" && (
          <Pick
            label="Front"
            title="What travels faces along its way with it, and Face camera turns it to the camera; the bench shows it as an arrow"
            value={fronts.find((f) => f.way.join() === (part.front ?? []).join())?.name ?? ""}
            choices={[
              { value: "", name: "nobody has said" },
              ...fronts.map((f) => ({ value: f.name, name: f.text })),
            ]}
            onChange={(name) => set({ front: fronts.find((f) => f.name === name)?.way ?? [0, 0, 0] })}
          />
        )}
        {fitted && (
          <p className="text-[11px] text-quiet">
            The camera is kept fitted; let it go in Frame to place it by hand.
          </p>
        )}
      </Section>
      {part.kind !== "camera" && part.kind !== "light" && part.kind !== "floor" && (
        <SizeSection shot={shot} parts={[part]} />
      )}
      <Pivot shot={shot} part={part} />
      {(part.mesh ?? part.shape ?? part.kind === "group") && <FaceToFace part={part} />}
    </>
  );
}

const anglesOf = (q: Part["rest"]["rotation"]) =>
  new THREE.Euler().setFromQuaternion(new THREE.Quaternion(...q), "XYZ");

function replaced(v: [number, number, number], i: number, x: number): [number, number, number] {
  const out = [...v] as [number, number, number];
  out[i] = x;
  return out;
}
