import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { Plus } from "lucide-react";
import * as THREE from "three";
import { api } from "../api/client";
import { newId } from "../api/ids";
import { useEdits, useShot } from "../api/queries";
import type { Arrange as ArrangeEdit, Part, ShotReply } from "../api/types.gen";
import { Button, itemClass, listClass, Pick, Row, TextField, Toggle } from "../fields/controls";
import { NumberField } from "../fields/NumberField";
import { ask } from "../screen/ask";
import { clock } from "../state/clock";
import { say } from "../state/notices";
import { choose, select, useUi } from "../state/ui";
import { usePicked, type Picked } from "../views/pick";
import { CopiesFields, firstCopies } from "./CopiesFields";
import { firstWord, MarkFields } from "./MarkFields";
import { MeasureSection } from "./MeasureSection";
import { NumbersSection } from "./NumbersSection";
import { ShapeFields, shapes } from "./ShapeFields";
import { Section } from "./Sheet";

const turn = 2 * Math.PI;

/** The tree and the places of what is selected. */
export function Arrange({ shot }: { shot: ShotReply }) {
  const chosen = useUi((s) => s.chosen);
  const parts = shot.document.parts.filter((p) => chosen.includes(p.id));
  const part = shot.document.parts.find((p) => p.id === chosen.at(-1));
  return (
    <>
      {!part ? (
        <Section title="Arrange" note={<AddPart shot={shot} />}>
          <p className="text-quiet">
            Select a part in the tree or in the bench to name it, place it, resize it or hide it. A first
            click in the bench takes the whole group, the next one goes a level deeper; with Shift it is added
            to the selection.
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

function useArrange() {
  const { edit } = useEdits();
  return (a: ArrangeEdit) => edit({ arrange: a });
}

/** What works for one part and for several alike. */
function Common({ shot, parts }: { shot: ShotReply; parts: Part[] }) {
  const arrange = useArrange();
  const ids = parts.map((p) => p.id);
  const all = (f: (p: Part) => boolean) => parts.every(f);
  const mark = (m: { hidden?: boolean; away?: boolean; locked?: boolean; tag?: string }) =>
    void arrange({ flag: { parts: ids, ...m } });
  const group = async () => {
    const name = await ask({ title: "Name of the group", value: "Group", yes: "Group" });
    const id = newId();
    if (name !== null && (await arrange({ group: { parts: ids, id, name } }))) select(id);
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
            <Button onClick={() => void arrange({ ungroup: { part: first.id } })}>Take apart</Button>
          )}
          <Button
            onClick={() => void arrange({ duplicate: { parts: ids, id: newId() } })}
            title="Ctrl D: an own copy"
          >
            Duplicate
          </Button>
          {parts.length === 1 && !first.copies && !first.camera && !first.light && first.kind !== "floor" && (
            <Button
              onClick={() => {
                const id = newId();
                void arrange({ add: { part: firstCopies(shot, first, id) } }).then((ok) => ok && select(id));
              }}
              title="Linked copies in a row, grid, ring, along a path or scattered"
            >
              Copies
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
            onClick={() => void arrange({ remove: { parts: ids } }).then((ok) => ok && select(null))}
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
            onClick={() => void arrange({ stand: { parts: ids, sink: 0 } })}
            title="The exact lowest point on the floor, or on the plinth"
          >
            Stand
          </Button>
          <Button
            onClick={() => void arrange({ centre: { parts: ids } })}
            title="The smallest circle round its footprint, on the axis of what it is in"
          >
            Centre
          </Button>
          <Button
            onClick={() => void arrange({ faceCamera: { parts: ids } })}
            title="Turned about the upright axis until its front looks at the camera"
          >
            Face camera
          </Button>
          <Button
            onClick={() => void arrange({ reset: { parts: ids } })}
            title="No place, turn or size of its own"
          >
            Reset
          </Button>
          <Button
            onClick={() => void arrange({ restHere: { parts: ids, frame: clock.frame } })}
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
  const arrange = useArrange();
  const ids = parts.map((p) => p.id);
  const rename = async () => {
    const pattern = await ask({
      title: `Names of ${parts.length} parts`,
      text: "{name} is the name that a part has, {n} counts from 1.",
      value: "{name} {n}",
      yes: "Rename",
    });
    if (pattern !== null) void arrange({ rename: { parts: ids, pattern } });
  };
  return (
    <>
      <Section title={`${parts.length} parts`}>
        <Button onClick={() => void rename()}>Rename…</Button>
      </Section>
      <Common shot={shot} parts={parts} />
      <Section title="Align and space out">
        {["x", "y", "z"].map((name, axis) => (
          <Row key={name} label={name}>
            <span className="flex gap-1">
              {(["low", "middle", "high"] as const).map((to) => (
                <Button key={to} onClick={() => void arrange({ align: { parts: ids, axis, to } })}>
                  {to}
                </Button>
              ))}
              <Button
                disabled={parts.length < 3}
                onClick={() => void arrange({ distribute: { parts: ids, axis } })}
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
  const set = (change: Partial<Part>) => void edit({ setPart: { part: { ...part, ...change } } });
  const rest = (change: Partial<Part["rest"]>) => set({ rest: { ...part.rest, ...change } });
  const fitted = part.camera?.fitted ?? false;
  const still = fitted || part.locked === true;
  const euler = new THREE.Euler().setFromQuaternion(new THREE.Quaternion(...part.rest.rotation), "XYZ");
  const spin = (k: number, v: number) => {
    const e = euler.clone();
    e[(["x", "y", "z"] as const)[k]!] = v * turn;
    const q = new THREE.Quaternion().setFromEuler(e);
    rest({ rotation: [q.x, q.y, q.z, q.w] });
  };
  return (
    <>
      <Section title={part.name} note={part.shape ? part.shape.kind : part.kind}>
        <TextField label="Name" value={part.name} onChange={(name) => set({ name })} />
      </Section>
      {part.shape && <ShapeFields key={part.id} part={part} />}
      {part.mark && <MarkFields key={part.id} part={part} />}
      {part.copies && <CopiesFields shot={shot} part={part} />}
      {part.plinth && <PlinthFields part={part} />}
      {part.kind === "floor" && <FloorFields shot={shot} part={part} />}
      <Common shot={shot} parts={[part]} />
      <Section title="Place" note={part.parent ? "in what it is in" : "in the room"}>
        {(["x", "y", "z"] as const).map((axis, i) => (
          <NumberField
            key={axis}
            label={["Right, x", "Up, y", "Forwards, z"][i]!}
            value={part.rest.position[i]!}
            kind="length"
            unit="mm"
            digits={3}
            disabled={still}
            onChange={(v) => rest({ position: replaced(part.rest.position, i, v) })}
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
        {part.kind !== "camera" && part.kind !== "light" && (
          <NumberField
            label="Size"
            value={part.rest.size[0] * 100}
            kind="percent"
            unit="%"
            digits={3}
            min={1e-6}
            disabled={still}
            onChange={(v) => {
              const k = v / 100 / part.rest.size[0];
              rest({ size: part.rest.size.map((s) => s * k) as Part["rest"]["size"] });
            }}
          />
        )}
        {fitted && (
          <p className="text-[11px] text-quiet">
            The camera is kept fitted; let it go in Frame to place it by hand.
          </p>
        )}
      </Section>
      <Pivot part={part} />
      {(part.mesh ?? part.shape ?? part.kind === "group") && <FaceToFace part={part} />}
    </>
  );
}

const triple = (v: THREE.Vector3) => v.toArray() as [number, number, number];

function Pivot({ part }: { part: Part }) {
  const arrange = useArrange();
  const id = useUi((s) => s.shot);
  const put = (to: string, point: [number, number, number] = [0, 0, 0]) =>
    void arrange({ pivot: { part: part.id, to, point } });
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

function FaceToFace({ part }: { part: Part }) {
  const arrange = useArrange();
  usePicked("from", (p) => {
    from = p;
    useUi.setState({ picking: "to" });
  });
  usePicked("to", (p) => {
    useUi.setState({ picking: null });
    if (from)
      void arrange({
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

function replaced(v: [number, number, number], i: number, x: number): [number, number, number] {
  const out = [...v] as [number, number, number];
  out[i] = x;
  return out;
}

function PlinthFields({ part }: { part: Part }) {
  const { edit } = useEdits();
  const disc = part.plinth!;
  const set = (change: Partial<typeof disc>) =>
    void edit({ setPart: { part: { ...part, plinth: { ...disc, ...change } } } });
  return (
    <Section title="Plinth" note={<SizePlinth />}>
      <Pick
        label="Form"
        value={disc.form || "disc"}
        choices={["disc", "stepped disc", "slab", "column"].map((v) => ({ value: v, name: v }))}
        onChange={(form) => set({ form: form === "disc" ? "" : form })}
      />
      <NumberField
        label="Radius"
        value={disc.radius}
        kind="length"
        unit="mm"
        digits={2}
        min={0.00001}
        onChange={(radius) => set({ radius })}
      />
      <NumberField
        label="Height"
        value={disc.height}
        kind="length"
        unit="mm"
        digits={2}
        min={0.00001}
        onChange={(height) => set({ height })}
      />
      <NumberField
        label="Rounded edge"
        value={disc.bevel}
        kind="length"
        unit="mm"
        digits={2}
        min={0}
        onChange={(bevel) => set({ bevel })}
      />
    </Section>
  );
}

/** A floor that is seen, or one that only receives shadow. */
function FloorFields({ shot, part }: { shot: ShotReply; part: Part }) {
  const { edit } = useEdits();
  const size = shot.document.parts.find((p) => p.plinth)?.plinth?.radius ?? 0.1;
  const set = (ground: number) => void edit({ setPart: { part: { ...part, ground } } });
  return (
    <Section title="Floor">
      <Pick
        label="Kind"
        value={(part.ground ?? 0) > 0}
        choices={[
          { value: false, name: "shadow only", note: "into the alpha" },
          { value: true, name: "solid", note: "seen, and not framed" },
        ]}
        onChange={(solid) => set(solid ? Number((size * 40).toPrecision(2)) : 0)}
      />
      {(part.ground ?? 0) > 0 && (
        <NumberField
          label="Side"
          value={part.ground!}
          kind="length"
          unit="mm"
          digits={1}
          min={0.00001}
          onChange={set}
        />
      )}
    </Section>
  );
}

/** Sizes the plinth to the model again and stands the model on it. */
function SizePlinth() {
  const { edit } = useEdits();
  const source = useShot()?.document.sources[0];
  if (!source) return null;
  return (
    <button
      type="button"
      className="underline hover:text-ink"
      onClick={() => void edit({ arrange: { stage: { part: source.root } } })}
    >
      size it to the model
    </button>
  );
}

/** Adds a shape, sized to what is there. */
function AddPart({ shot }: { shot: ShotReply }) {
  const arrange = useArrange();
  const size = shot.document.parts.find((p) => p.plinth)?.plinth?.radius ?? 0.1;
  const add = (name: string, is: Partial<Part> & { kind: string }) => {
    const id = newId();
    const part: Part = {
      id,
      name: name.charAt(0).toUpperCase() + name.slice(1),
      parent: "",
      rest: { position: [0, 0, 0], rotation: [0, 0, 0, 1], size: [1, 1, 1] },
      pivot: [0, 0, 0],
      hidden: false,
      moves: [],
      ...is,
    };
    void arrange({ add: { part } }).then((ok) => ok && select(id));
  };
  return (
    <Menu>
      <MenuButton className="flex items-center gap-1 rounded-sm border border-line px-1.5 py-0.5 hover:bg-raised">
        <Plus size={11} /> Add a shape or word
      </MenuButton>
      <MenuItems anchor="bottom end" className={listClass}>
        <MenuItem>
          <button
            type="button"
            className={itemClass + " w-full"}
            onClick={() => add("word", { kind: "group", mark: firstWord(size) })}
          >
            word
          </button>
        </MenuItem>
        {Object.entries(shapes(size)).map(([name, shape]) => (
          <MenuItem key={name}>
            <button
              type="button"
              className={itemClass + " w-full"}
              onClick={() => add(name, { kind: "shape", shape })}
            >
              {name}
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}
