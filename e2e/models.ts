import { Document, NodeIO } from "@gltf-transform/core";

/** A lopsided bracket of two boxes with a red and a blue material, as GLB made by another program's library. */
export async function bracket(): Promise<Buffer> {
  const d = new Document();
  const buffer = d.createBuffer();
  const scene = d.createScene();
  const top = d.createNode("Bracket");
  scene.addChild(top);
  const boxes: [string, [number, number, number], [number, number, number], [number, number, number, number]][] = [
    ["Foot", [0.12, 0.02, 0.05], [0, 0.01, 0], [0.8, 0.05, 0.05, 1]],
    ["Arm", [0.02, 0.1, 0.05], [0.05, 0.07, 0], [0.05, 0.1, 0.8, 1]],
  ];
  for (const [name, size, at, color] of boxes) {
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
    const mesh = d
      .createMesh(name)
      .addPrimitive(
        d
          .createPrimitive()
          .setAttribute("POSITION", d.createAccessor().setType("VEC3").setArray(position).setBuffer(buffer))
          .setIndices(d.createAccessor().setType("SCALAR").setArray(new Uint16Array(index)).setBuffer(buffer))
          .setMaterial(d.createMaterial(name).setBaseColorFactor(color).setRoughnessFactor(0.6).setMetallicFactor(0)),
      );
    top.addChild(d.createNode(name).setMesh(mesh).setTranslation(at));
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
