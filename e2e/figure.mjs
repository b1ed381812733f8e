// A figure on bones with two clips, as a file of another program's library, and where three puts its points.
//
//   node figure.mjs ../library/testdata
//
// writes figure.glb and figure.json there, which library/flesh_test.go compares with.
import { Document, NodeIO } from "@gltf-transform/core";
import { writeFileSync } from "node:fs";
import { pathToFileURL } from "node:url";
import * as THREE from "three";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";

const turn = (axis, degrees) => new THREE.Quaternion().setFromAxisAngle(new THREE.Vector3(...axis), (degrees * Math.PI) / 180).toArray();

/**
 * A tin bird, 0.4 m high: a body on four bones with a shape that puffs it up, weights that do not add up to one, and the shape
 * given sparsely; a tail whose points hang on eight bones each. Stroll takes 85 frames at 24 a second and ends as it begins; Nod
 * takes a second, moves the shape too, and does not.
 */
export async function figure() {
  const d = new Document();
  const buffer = d.createBuffer();
  const scene = d.createScene();
  const data = (type, array, o = {}) => d.createAccessor().setType(type).setArray(array).setBuffer(buffer).setSparse(o.sparse ?? false).setNormalized(o.normalized ?? false);
  const bird = d.createNode("Bird");
  scene.addChild(bird);
  const hips = d.createNode("Hips").setTranslation([0, 0.05, 0]);
  const spine = d.createNode("Spine").setTranslation([0, 0.12, 0]).setRotation(turn([1, 0, 0], 8));
  const neck = d.createNode("Neck").setTranslation([0, 0.12, 0]).setScale([1, 0.9, 1.1]);
  const head = d.createNode("Head").setTranslation([0, 0.08, 0.01]);
  bird.addChild(hips);
  hips.addChild(spine);
  spine.addChild(neck);
  neck.addChild(head);
  const tails = [];
  for (let k = 0; k < 8; k++) {
    tails.push(d.createNode(`Tail ${k}`).setTranslation(k === 0 ? [0, 0.02, -0.05] : [0, 0.004, -0.02]));
    (k === 0 ? hips : tails[k - 1]).addChild(tails[k]);
  }
  const worlds = new Map();
  const walk = (n, up) => {
    const m = up.clone().multiply(new THREE.Matrix4().compose(new THREE.Vector3(...n.getTranslation()), new THREE.Quaternion(...n.getRotation()), new THREE.Vector3(...n.getScale())));
    worlds.set(n, m);
    for (const c of n.listChildren()) walk(c, m);
  };
  walk(bird, new THREE.Matrix4());
  const skinOf = (name, joints) => {
    const inverse = new Float32Array(16 * joints.length);
    joints.forEach((j, k) => inverse.set(worlds.get(j).clone().invert().elements, 16 * k));
    const skin = d.createSkin(name).setInverseBindMatrices(data("MAT4", inverse));
    for (const j of joints) skin.addJoint(j);
    return skin;
  };
  const steel = d.createMaterial("Tin").setBaseColorFactor([0.55, 0.6, 0.65, 1]).setRoughnessFactor(0.4).setMetallicFactor(0.6);
  const red = d.createMaterial("Red tin").setBaseColorFactor([0.6, 0.1, 0.06, 1]).setRoughnessFactor(0.5).setMetallicFactor(0);

  // Rings round an axis, closed at both ends.
  const tube = (rings, sides, radius, at) => {
    const position = [];
    const normal = [];
    const index = [];
    for (let r = 0; r < rings; r++)
      for (let s = 0; s < sides; s++) {
        const a = (s / sides) * 2 * Math.PI;
        const u = r / (rings - 1);
        const [c, x, y] = at(u);
        const k = radius(u);
        for (let i = 0; i < 3; i++) position.push(c[i] + k * (Math.cos(a) * x[i] + Math.sin(a) * y[i]));
        for (let i = 0; i < 3; i++) normal.push(Math.cos(a) * x[i] + Math.sin(a) * y[i]);
        if (r + 1 < rings) {
          const [p, q] = [r * sides + s, r * sides + ((s + 1) % sides)];
          index.push(p, p + sides, q, q, p + sides, q + sides);
        }
      }
    for (let s = 1; s + 1 < sides; s++) {
      const top = (rings - 1) * sides;
      index.push(0, s, s + 1, top, top + s + 1, top + s);
    }
    return { position: new Float32Array(position), normal: new Float32Array(normal), index: new Uint16Array(index), count: rings * sides };
  };
  const body = tube(
    24,
    20,
    (u) => 0.02 + 0.06 * Math.sin(Math.PI * Math.min(1, u * 1.15)) ** 0.7 * (u < 0.62 ? 1 : 0.62),
    (u) => [[0, 0.02 + 0.38 * u, 0], [0, 0, 1], [1, 0, 0]],
  );
  const bones = [hips, spine, neck, head];
  const heights = bones.map((b) => new THREE.Vector3().setFromMatrixPosition(worlds.get(b)).y);
  const joints = new Uint8Array(4 * body.count);
  const shares = new Float32Array(4 * body.count);
  const puff = new Float32Array(3 * body.count);
  for (let i = 0; i < body.count; i++) {
    const y = body.position[3 * i + 1];
    heights.forEach((h, k) => {
      joints[4 * i + k] = k;
      shares[4 * i + k] = 1.7 * Math.max(0, 1 - Math.abs(y - h - 0.04) / 0.13); // they do not add up to one
    });
    if (shares[4 * i] + shares[4 * i + 1] + shares[4 * i + 2] + shares[4 * i + 3] === 0) shares[4 * i] = 1;
    if (y > 0.1 && y < 0.22) for (const k of [0, 2]) puff[3 * i + k] = 0.5 * body.position[3 * i + k];
  }
  const shell = d
    .createPrimitive()
    .setAttribute("POSITION", data("VEC3", body.position))
    .setAttribute("NORMAL", data("VEC3", body.normal))
    .setAttribute("JOINTS_0", data("VEC4", joints))
    .setAttribute("WEIGHTS_0", data("VEC4", shares))
    .setIndices(data("SCALAR", body.index))
    .setMaterial(steel)
    .addTarget(d.createPrimitiveTarget("Puff").setAttribute("POSITION", data("VEC3", puff, { sparse: true })));
  const bodyMesh = d.createMesh("Body").addPrimitive(shell).setWeights([0.1]).setExtras({ targetNames: ["Puff"] });
  bird.addChild(d.createNode("Body").setMesh(bodyMesh).setSkin(skinOf("Body", bones)).setTranslation([0.3, 0.2, 0.1])); // which a skin does not mind

  const tail = tube(
    16,
    10,
    (u) => 0.022 * (1 - 0.7 * u),
    (u) => [[0, 0.07 + 0.03 * u, -0.05 - 0.16 * u], [1, 0, 0], [0, 1, 0]],
  );
  const eight = [new Uint8Array(4 * tail.count), new Uint8Array(4 * tail.count)];
  const by = [new Float32Array(4 * tail.count), new Float32Array(4 * tail.count)];
  for (let i = 0; i < tail.count; i++) {
    const u = (-tail.position[3 * i + 2] - 0.05) / 0.16;
    const w = tails.map((_, k) => Math.exp(-((u * 7 - k) ** 2) / 3));
    const sum = w.reduce((a, b) => a + b);
    w.forEach((v, k) => {
      eight[k >> 2][4 * i + (k & 3)] = k;
      by[k >> 2][4 * i + (k & 3)] = v / sum;
    });
  }
  const feather = d
    .createPrimitive()
    .setAttribute("POSITION", data("VEC3", tail.position))
    .setAttribute("NORMAL", data("VEC3", tail.normal))
    .setAttribute("JOINTS_0", data("VEC4", eight[0]))
    .setAttribute("JOINTS_1", data("VEC4", eight[1]))
    .setAttribute("WEIGHTS_0", data("VEC4", by[0]))
    .setAttribute("WEIGHTS_1", data("VEC4", by[1]))
    .setIndices(data("SCALAR", tail.index))
    .setMaterial(red);
  bird.addChild(d.createNode("Tail").setMesh(d.createMesh("Tail").addPrimitive(feather)).setSkin(skinOf("Tail", tails)));

  const clip = (name, channels) => {
    const a = d.createAnimation(name);
    for (const [node, path, how, times, values] of channels) {
      const width = { translation: "VEC3", rotation: "VEC4", scale: "VEC3", weights: "SCALAR" }[path];
      const s = d.createAnimationSampler().setInterpolation(how).setInput(data("SCALAR", new Float32Array(times))).setOutput(data(width, new Float32Array(values.flat())));
      a.addSampler(s).addChannel(d.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(s));
    }
  };
  const long = 85 / 24;
  const even = (n) => Array.from({ length: n + 1 }, (_, k) => (k / n) * long);
  const swing = (axis, degrees, n, phase = 0, rest = [0, 0, 0, 1]) =>
    even(n).map((_, k) => new THREE.Quaternion(...turn(axis, degrees * Math.sin((2 * Math.PI * k) / n + phase))).multiply(new THREE.Quaternion(...rest)).toArray());
  clip("Stroll", [
    [bird, "translation", "LINEAR", even(8), even(8).map((_, k) => [0, 0.01 * (1 - Math.cos((Math.PI * k) / 2)), 0])],
    [hips, "rotation", "LINEAR", even(12), swing([0, 0, 1], 7, 12)],
    [spine, "rotation", "LINEAR", even(16), swing([0, 1, 0], 14, 16, 0.6, turn([1, 0, 0], 8))],
    [neck, "rotation", "CUBICSPLINE", [0, long / 2, long], [[0.1, 0, 0, 0], turn([1, 0, 0], 0), [0.15, 0, 0, 0], [0, 0, 0, 0], turn([1, 0, 0], 24), [0, 0, 0, 0], [0.15, 0, 0, 0], turn([1, 0, 0], 0), [0.1, 0, 0, 0]]],
    [head, "scale", "STEP", [0, long / 3, long], [[1, 1, 1], [1.1, 1.1, 1.1], [1, 1, 1]]],
    ...tails.map((t, k) => [t, "rotation", "LINEAR", even(10), swing([0, 1, 0], 9, 10, -k / 2)]),
  ]);
  clip("Nod", [
    [head, "rotation", "LINEAR", [0.5, 1, 1.5], [turn([1, 0, 0], 0), turn([1, 0, 0], 35), turn([1, 0, 0], 20)]],
    [bird.listChildren()[1], "weights", "LINEAR", [0.5, 1, 1.5], [0.1, 1, 0.4]],
  ]);
  return Buffer.from(await new NodeIO().writeBinary(d));
}

/** Where three puts points at times of each clip: a set for each time, of every so-manieth point of both meshes, in the file's frame. */
async function points(glb) {
  const out = [];
  const gltf = await new GLTFLoader().parseAsync(new Uint8Array(glb).buffer, "");
  const find = (name) => gltf.scene.getObjectByName(name);
  for (const clip of gltf.animations) {
    const mixer = new THREE.AnimationMixer(gltf.scene);
    const begins = Math.min(...clip.tracks.map((t) => t.times[0])); // a clip of a document begins with its first key
    mixer.clipAction(clip).setLoop(THREE.LoopOnce, 1).play();
    const long = clip.duration - begins;
    for (let n = 0; n < 20; n++) {
      const seconds = (n / 20) * long;
      mixer.setTime(begins + seconds);
      gltf.scene.updateMatrixWorld(true);
      for (const name of ["Body", "Tail"]) {
        const mesh = find(name);
        mesh.skeleton.update();
        const count = mesh.geometry.getAttribute("position").count;
        const at = [];
        for (let i = 0; i < count; i += 7) {
          const v = new THREE.Vector3();
          if (name === "Body") mesh.getVertexPosition(i, v).applyMatrix4(mesh.matrixWorld);
          else {
            // three hangs points on four bones; on eight as the standard's text has it (3.7.3.3), by three's matrices
            const g = mesh.geometry;
            const p = new THREE.Vector3().fromBufferAttribute(g.getAttribute("position"), i);
            for (const [joints, shares] of [["skinIndex", "skinWeight"], ["joints_1", "weights_1"]])
              for (let k = 0; k < 4; k++) {
                const j = g.getAttribute(joints).getComponent(i, k);
                const m = new THREE.Matrix4().multiplyMatrices(mesh.skeleton.bones[j].matrixWorld, mesh.skeleton.boneInverses[j]);
                v.addScaledVector(p.clone().applyMatrix4(m), shareOf(g, shares, i, k));
              }
          }
          at.push(v.toArray().map((x) => Number(x.toFixed(8))));
        }
        out.push({ clip: clip.name, seconds, part: name, each: 7, at });
      }
    }
    mixer.stopAllAction();
    mixer.uncacheRoot(gltf.scene);
  }
  return out;
}

/** The share as the file has it: three makes its first four add up to one. */
function shareOf(g, name, i, k) {
  const all = ["skinWeight", "weights_1"].map((n) => [0, 1, 2, 3].map((c) => g.getAttribute(n).getComponent(i, c)));
  const raw = all[name === "skinWeight" ? 0 : 1][k];
  if (name === "weights_1") return raw;
  const rest = 1 - all[1].reduce((a, b) => a + b, 0); // of what adds up to one in all
  return raw * rest;
}

if (import.meta.url === pathToFileURL(process.argv[1] ?? "").href) {
  globalThis.ProgressEvent ??= class {}; // which the loader names
  const glb = await figure();
  writeFileSync(`${process.argv[2]}/figure.glb`, glb);
  writeFileSync(`${process.argv[2]}/figure.json`, JSON.stringify(await points(glb)) + "\n");
}
