import { Document, NodeIO } from "@gltf-transform/core";

type Triple = [number, number, number];

/** A box by its name, size, middle and colour; one without a name is of the part before it. */
type Box = [name: string, size: Triple, at: Triple, color: [number, number, number, number]];

/** A lopsided bracket of two boxes with a red and a blue material. */
export const bracket = (): Promise<Buffer> =>
  boxes("Bracket", [
    ["Foot", [0.12, 0.02, 0.05], [0, 0.01, 0], [0.8, 0.05, 0.05, 1]],
    ["Arm", [0.02, 0.1, 0.05], [0.05, 0.07, 0], [0.05, 0.1, 0.8, 1]],
  ]);

/** A crate with two ingots in it, alike, under a lid that two pegs hold. */
export const crate = (): Promise<Buffer> => {
  const [wood, gold, iron] = [[0.5, 0.3, 0.15, 1], [0.8, 0.6, 0.2, 1], [0.3, 0.3, 0.32, 1]] as Box[3][];
  return boxes("Crate", [
    ["Tray", [0.2, 0.01, 0.12], [0, 0.005, 0], wood!],
    ["", [0.01, 0.07, 0.12], [-0.095, 0.045, 0], wood!],
    ["", [0.01, 0.07, 0.12], [0.095, 0.045, 0], wood!],
    ["", [0.18, 0.07, 0.01], [0, 0.045, -0.055], wood!],
    ["", [0.18, 0.07, 0.01], [0, 0.045, 0.055], wood!],
    ["Ingot left", [0.06, 0.04, 0.06], [-0.045, 0.03, 0], gold!],
    ["Ingot right", [0.06, 0.04, 0.06], [0.045, 0.03, 0], gold!],
    ["Lid", [0.2, 0.01, 0.12], [0, 0.085, 0], wood!],
    ["Peg left", [0.02, 0.01, 0.02], [-0.08, 0.095, 0], iron!],
    ["Peg right", [0.02, 0.01, 0.02], [0.08, 0.095, 0], iron!],
  ]);
};

/** An assembly of boxes, as GLB made by another program's library. */
async function boxes(whole: string, list: Box[]): Promise<Buffer> {
  const d = new Document();
  const buffer = d.createBuffer();
  const scene = d.createScene();
  const top = d.createNode(whole);
  scene.addChild(top);
  for (const [name, size, at, color] of list) {
    const position = new Float32Array(24 * 3);
    const index: number[] = [];
    let n = 0;
    for (let axis = 0; axis < 3; axis++)
      for (const sign of [-1, 1]) {
        for (let c = 0; c < 4; c++) {
          const p = [0, 0, 0];
          p[axis] = (sign * size[axis]!) / 2;
          p[(axis + 1) % 3] = ((c & 1) - 0.5) * size[(axis + 1) % 3]!;
          p[(axis + 2) % 3] = ((c >> 1) - 0.5) * size[(axis + 2) % 3]!;
          position.set(p, 3 * (n + c));
        }
        index.push(...(sign > 0 ? [0, 1, 3, 0, 3, 2] : [0, 3, 1, 0, 2, 3]).map((k) => n + k));
        n += 4;
      }
    const last = top.listChildren().at(-1);
    const off = name ? [0, 0, 0] : at.map((v, k) => v - last!.getTranslation()[k]!);
    for (let k = 0; k < position.length; k++) position[k]! += off[k % 3]!;
    const faces = d
      .createPrimitive()
      .setAttribute("POSITION", d.createAccessor().setType("VEC3").setArray(position).setBuffer(buffer))
      .setIndices(d.createAccessor().setType("SCALAR").setArray(new Uint16Array(index)).setBuffer(buffer))
      .setMaterial(d.createMaterial(name).setBaseColorFactor(color).setRoughnessFactor(0.6).setMetallicFactor(0));
    if (!name) last!.getMesh()!.addPrimitive(faces);
    else top.addChild(d.createNode(name).setMesh(d.createMesh(name).addPrimitive(faces)).setTranslation(at));
  }
  return Buffer.from(await new NodeIO().writeBinary(d));
}

/** A washer with a round bore, lying flat: radii in millimetres, as OBJ with z upright. */
export function washer(outer = 30, bore = 14, height = 12, sides = 48): Buffer {
  const profile = [
    [bore, 0],
    [outer, 0],
    [outer, height],
    [bore, height],
  ];
  const out = ["o Washer"];
  for (const [r, z] of profile)
    for (let i = 0; i < sides; i++) {
      const a = (i / sides) * 2 * Math.PI;
      out.push(`v ${r! * Math.cos(a)} ${r! * Math.sin(a)} ${z}`);
    }
  for (let k = 0; k < 4; k++)
    for (let i = 0; i < sides; i++) {
      const [a, b] = [k * sides + i + 1, k * sides + ((i + 1) % sides) + 1];
      const [c, d] = [((k + 1) % 4) * sides + i + 1, ((k + 1) % 4) * sides + ((i + 1) % sides) + 1];
      out.push(`f ${a} ${b} ${d} ${c}`);
    }
  return Buffer.from(out.join("\n"));
}

/** A mast with a head that yaws, a rotor on it that turns and grows, a flag that jumps: all three interpolations of glTF. */
export async function windmill(): Promise<Buffer> {
  const d = new Document();
  const buffer = d.createBuffer();
  const floats = (type: "SCALAR" | "VEC3" | "VEC4", list: number[]) =>
    d.createAccessor().setType(type).setArray(new Float32Array(list)).setBuffer(buffer);
  const mesh = d
    .createMesh("Blade")
    .addPrimitive(
      d
        .createPrimitive()
        .setAttribute("POSITION", floats("VEC3", [0, 0, 0, 0.4, 0, 0, 0, 0.9, 0.1, 0, 0.1, 0.5]))
        .setIndices(d.createAccessor().setType("SCALAR").setArray(new Uint16Array([0, 1, 2, 0, 2, 3, 0, 3, 1, 1, 3, 2])).setBuffer(buffer)),
    );
  const unit = (q: number[]) => q.map((v) => v / Math.hypot(...q));
  const mast = d.createNode("Mast").setMesh(mesh).setTranslation([0.2, 0, -0.1]).setRotation(unit([0.1, 0.3, 0, 1]) as never);
  const head = d.createNode("Head").setMesh(mesh).setTranslation([0, 0.9, 0]).setRotation(unit([0, 0.5, 0.2, 1]) as never).setScale([0.8, 1.2, 1]);
  const rotor = d.createNode("Rotor").setMesh(mesh).setTranslation([0, 0.1, 0.3]).setScale([0.5, 0.5, 0.5]);
  const flag = d.createNode("Flag").setMesh(mesh).setTranslation([0, 1, 0]).setScale([0.3, 0.3, 0.3]);
  mast.addChild(head.addChild(rotor)).addChild(flag);
  d.createScene().addChild(d.createNode("Windmill").addChild(mast));
  const a = d.createAnimation("Blow");
  const channel = (node: typeof mast, path: "translation" | "rotation" | "scale", how: "LINEAR" | "STEP" | "CUBICSPLINE", times: number[], values: number[]) => {
    const s = a && d.createAnimationSampler().setInterpolation(how).setInput(floats("SCALAR", times)).setOutput(floats(path === "rotation" ? "VEC4" : "VEC3", values));
    a.addSampler(s).addChannel(d.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(s));
  };
  channel(head, "rotation", "LINEAR", [0, 1, 2.5], [...unit([0, 0.5, 0.2, 1]), ...unit([0.3, -0.9, 0.1, 0.2]), ...unit([0, 0.5, 0.2, 1])]);
  channel(rotor, "rotation", "CUBICSPLINE", [0.25, 1.1, 2], [0, 0, 0, 0, 0, 0, 0, 1, 0.4, 0, 1.5, 0, 0.1, 0, 1, -1, ...unit([0, 0, 1, 0.5]), 0, 0.3, 0.5, -1, 0, 0, 1, 0, ...unit([0, 0.2, 1, -0.2]), 0, 0, 0, 0]);
  channel(rotor, "scale", "CUBICSPLINE", [0, 2], [0, 0, 0, 0.5, 0.5, 0.5, 0.3, 0, -0.2, -0.5, 0.1, 0, 0.9, 0.6, 0.3, 0, 0, 0]);
  channel(mast, "translation", "LINEAR", [0.5, 1.5, 3], [0.2, 0, -0.1, 0.5, 0.2, -0.1, 0.2, 0, -0.1]);
  channel(flag, "translation", "STEP", [0, 0.7, 1.4], [0, 1, 0, 0.2, 1.1, 0, 0, 1.3, 0.1]);
  return Buffer.from(await new NodeIO().writeBinary(d));
}

/** An upright tile with texture coordinates, 100 units wide, as OBJ. */
export function quad(materials: string): Buffer {
  return Buffer.from(
    `mtllib ${materials}\no tile\nusemtl Tile\nv -50 0 0\nv 50 0 0\nv 50 80 0\nv -50 80 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nf 1/1 2/2 3/3 4/4\n`,
  );
}

/** A cart of separate parts, in millimetres, as OBJ with y upright: a body along x, and two wheels of a front axle. */
export function cart(): Buffer {
  const out: string[] = [];
  let n = 0;
  const part = (name: string, corners: number[][], faces: number[][]) => {
    out.push("o " + name, ...corners.map((c) => "v " + c.join(" ")), ...faces.map((f) => "f " + f.map((k) => k + n + 1).join(" ")));
    n += corners.length;
  };
  const box = [0, 1, 2, 3, 4, 5, 6, 7].map((k) => [k & 1 ? 200 : -200, k & 2 ? 180 : 60, k & 4 ? 90 : -90]);
  part("Body", box, [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [2, 6, 7, 3], [0, 4, 6, 2], [1, 3, 7, 5]]);
  const sides = 24;
  for (const [name, z] of [["Wheel left", -110], ["Wheel right", 110]] as const) {
    const rim = (at: number) =>
      Array.from({ length: sides }, (_, k) => [120 + 55 * Math.cos((k / sides) * 2 * Math.PI), 55 + 55 * Math.sin((k / sides) * 2 * Math.PI), at]);
    const quads = Array.from({ length: sides }, (_, k) => [k, (k + 1) % sides, sides + ((k + 1) % sides), sides + k].reverse());
    const cap = (from: number, turned: boolean) => {
      const f = Array.from({ length: sides }, (_, k) => from + k);
      return turned ? f.reverse() : f;
    };
    part(name, [...rim(z - 15), ...rim(z + 15)], [...quads, cap(0, true), cap(sides, false)]);
  }
  return Buffer.from(out.join("\n"));
}

/** A crane of three parts as a survey leaves it: z upright, 743 units long along y, tenths of them far from the origin. */
export function crane(): Buffer {
  const out: string[] = [];
  let n = 0;
  for (const [name, low, high] of [
    ["Tower", [9000, -4000, 12], [9060, -3940, 512]],
    ["Jib", [9010, -4000, 512], [9050, -3257, 540]],
    ["Hook", [9020, -3300, 400], [9040, -3280, 512]],
  ] as const) {
    const at = (k: number, i: number) => (k & (1 << i) ? high[i]! : low[i]!);
    out.push("o " + name, ...[0, 1, 2, 3, 4, 5, 6, 7].map((k) => `v ${at(k, 0)} ${at(k, 1)} ${at(k, 2)}`));
    for (const f of [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [2, 6, 7, 3], [0, 4, 6, 2], [1, 3, 7, 5]])
      out.push("f " + f.map((k) => k + n + 1).join(" "));
    n += 8;
  }
  return Buffer.from(out.join("\n"));
}
