import { expect, test } from "@playwright/test";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import * as THREE from "three";
import { GLTFLoader, type GLTF } from "three/addons/loaders/GLTFLoader.js";
import { OBJLoader } from "three/addons/loaders/OBJLoader.js";
import { PLYLoader } from "three/addons/loaders/PLYLoader.js";
import { STLLoader } from "three/addons/loaders/STLLoader.js";
import { washer, windmill } from "./models.js";
import { binary, start } from "./server.mjs";

// What the importer makes of a file against what three makes of the same bytes, in Node.

interface Part {
  id: string;
  name: string;
  parent: string;
  kind: string;
}

async function bring(address: string, name: string, data: Buffer) {
  const form = new FormData();
  form.append("file", new Blob([new Uint8Array(data)]), name);
  const origin = { Origin: address };
  const got = await (await fetch(`${address}/api/imports`, { method: "POST", body: form, headers: origin })).json();
  const shot = await (await fetch(`${address}/api/shots/${got.shot}`)).json();
  const bake = await (await fetch(`${address}/api/shots/${got.shot}/bake`)).arrayBuffer();
  return { parts: shot.document.parts as Part[], report: got.report, matrix: reader(bake) };
}

/** World matrices out of the baked block: see server/bake.go. */
function reader(data: ArrayBuffer): (part: number, frame: number) => THREE.Matrix4 {
  const [, , parts, count] = new Uint32Array(data, 0, 4);
  const animated = [...new Uint32Array(data, 16, count)];
  const still = new Float32Array(data, 16 + 4 * count!, 16 * parts!);
  const moving = new Float32Array(data, 16 + 4 * count! + 64 * parts!);
  return (part, frame) => {
    const k = animated.indexOf(part);
    return k < 0 ? new THREE.Matrix4().fromArray(still, 16 * part) : new THREE.Matrix4().fromArray(moving, 16 * (frame * count! + k));
  };
}

async function parse(data: Buffer): Promise<GLTF> {
  return new GLTFLoader().parseAsync(new Uint8Array(data).buffer, "");
}

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("serve");
});
test.afterEach(async () => server.stop());

test("a file's own animation gives the matrices of three's mixer, frame by frame", async () => {
  const data = await windmill();
  const gltf = await parse(data);
  const { parts, report, matrix } = await bring(server.address, "windmill.glb", data);
  expect(report.became).toEqual(["The clip Blow, 3 s long, moves 4 parts and is played."]);
  const index = (name: string) => parts.findIndex((p) => p.name === name);
  const mixer = new THREE.AnimationMixer(gltf.scene);
  const action = mixer.clipAction(gltf.animations[0]!);
  action.setLoop(THREE.LoopOnce, 1).play();
  action.clampWhenFinished = true;
  let worst = 0;
  for (let f = 0; f < 72; f++) {
    mixer.setTime(f / 24);
    gltf.scene.updateMatrixWorld(true);
    const top = matrix(index("Windmill"), f).invert(); // the whole stands on a turning table
    for (const name of ["Mast", "Head", "Rotor", "Flag"]) {
      const node = gltf.scene.getObjectByName(name)!;
      const parent = parts.find((p) => p.id === parts[index(name)]!.parent)!;
      expect(node.parent!.name).toBe(parent.name);
      const ours = top.clone().multiply(matrix(index(name), f));
      ours.elements.forEach((v, i) => (worst = Math.max(worst, Math.abs(v - node.matrixWorld.elements[i]!))));
    }
  }
  expect(worst).toBeLessThan(2e-6);
});

test("every part of the demonstration's model stands where three has it", async () => {
  const file = join(mkdtempSync(join(tmpdir(), "perigyre-model-")), "lantern.glb");
  execFileSync(binary, ["demo", "--write-model", file]);
  const data = readFileSync(file);
  // Pictures need a browser to decode; what is compared here does not need them.
  const gltf = await new GLTFLoader().register((p) => ({ name: "none", loadTexture: () => Promise.resolve(new THREE.Texture()), parser: p })).parseAsync(new Uint8Array(data).buffer, "");
  const { parts, report, matrix } = await bring(server.address, "lantern.glb", data);
  gltf.scene.updateMatrixWorld(true);
  const root = parts.findIndex((p) => p.kind === "group" && p.parent !== "");
  const top = matrix(root, 0).invert();
  let triangles = 0;
  const meshes: THREE.Object3D[] = [];
  gltf.scene.traverse((o) => {
    if (!(o instanceof THREE.Mesh)) return;
    const g = o.geometry as THREE.BufferGeometry;
    triangles += (g.index ?? g.getAttribute("position")).count / 3;
    const owner = gltf.parser.associations.get(o)?.nodes === undefined ? o.parent! : o;
    if (!meshes.includes(owner)) meshes.push(owner);
  });
  const solids = parts.map((p, i) => ({ ...p, i })).filter((p) => p.kind === "solid");
  expect(solids.length).toBe(meshes.length);
  expect(report.triangles).toBe(triangles);
  for (const p of solids) {
    const m = top.clone().multiply(matrix(p.i, 0));
    const near = meshes.some((o) => o.name.replaceAll("_", " ").startsWith(p.name) && m.elements.every((v, k) => Math.abs(v - o.matrixWorld.elements[k]!) < 1e-4));
    expect(near, p.name).toBe(true);
  }
});

test("counts and bounds of OBJ, STL and PLY are those of three's loaders", async () => {
  const obj = washer();
  const group = new OBJLoader().parse(obj.toString());
  const washed = (group.children[0] as THREE.Mesh).geometry as THREE.BufferGeometry;
  const at = washed.getAttribute("position");
  const facets = Array.from({ length: at.count / 3 }, (_, i) => {
    const corner = (k: number) => `vertex ${[at.getX(3 * i + k), at.getY(3 * i + k), at.getZ(3 * i + k)].join(" ")}`;
    return `facet normal 0 0 0\nouter loop\n${[0, 1, 2].map(corner).join("\n")}\nendloop\nendfacet`;
  });
  const stl = Buffer.from(`solid washer\n${facets.join("\n")}\nendsolid washer\n`);
  const rows = Array.from({ length: at.count }, (_, i) => [at.getX(i), at.getY(i), at.getZ(i)].join(" "));
  const faces = facets.map((_, i) => `3 ${3 * i} ${3 * i + 1} ${3 * i + 2}`);
  const ply = Buffer.from(
    `ply\nformat ascii 1.0\nelement vertex ${rows.length}\nproperty float x\nproperty float y\nproperty float z\nelement face ${faces.length}\nproperty list uchar int vertex_indices\nend_header\n${rows.join("\n")}\n${faces.join("\n")}\n`,
  );
  const theirs: [string, Buffer, THREE.BufferGeometry][] = [
    ["washer.obj", obj, washed],
    ["washer.stl", stl, new STLLoader().parse(stl.toString())],
    ["washer.ply", ply, new PLYLoader().parse(ply.toString())],
  ];
  for (const [name, data, g] of theirs) {
    const { report } = await bring(server.address, name, data);
    g.computeBoundingBox();
    expect(report.triangles, name).toBe((g.index ?? g.getAttribute("position")).count / 3);
    for (const [k, axis] of (["x", "y", "z"] as const).entries()) {
      expect(report.bounds.min[k], name).toBeCloseTo(g.boundingBox!.min[axis], 4);
      expect(report.bounds.max[k], name).toBeCloseTo(g.boundingBox!.max[axis], 4);
    }
  }
});
