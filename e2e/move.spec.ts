import { expect, test, type APIRequestContext, type Page } from "@playwright/test";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import * as THREE from "three";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";
import { bracket } from "./models.js";
import { dropModel } from "./pages.js";
import { binary, ready, start } from "./server.mjs";

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("serve");
});
test.afterEach(async () => server.stop());

interface Baked {
  frames: number;
  parts: { part: string; frames: number[][] }[];
}

/** Where a part is on a frame, as the command line prints it. */
function bakery(): (part: string, frame: number) => THREE.Matrix4 {
  const b = JSON.parse(execFileSync(binary, ["bake", server.data, "--shot", "Turntable"], { maxBuffer: 1 << 28 }).toString()) as Baked;
  return (part, frame) => {
    const list = b.parts.find((p) => p.part === part)!.frames;
    return new THREE.Matrix4().fromArray(list[Math.min(frame, list.length - 1)]!);
  };
}

const place = (m: THREE.Matrix4) => new THREE.Vector3().setFromMatrixPosition(m);

async function addMove(page: Page, part: string, kind: RegExp) {
  await page.getByRole("treeitem", { name: part, exact: true }).click();
  await page.keyboard.press("m");
  await page.getByRole("menuitem", { name: kind }).click();
  await expect(page.getByRole("menuitem").first()).toBeHidden();
}

async function fill(page: Page, label: string, value: string) {
  await page.getByLabel(label, { exact: true }).first().fill(value);
  await page.keyboard.press("Enter");
}

async function version(request: APIRequestContext, api: string) {
  return (await (await request.get(api)).json()).document;
}

test("moves, pins, gears, copies and retiming, and all of it undone and done again", async ({ page, request }) => {
  await page.goto(server.address + "/?plain");
  await dropModel(page, "bracket.glb", await bracket());
  await expect(page.getByRole("treeitem", { name: "Arm" })).toBeVisible();
  await ready(page, 0);
  const api = `${server.address}/api/shots/${page.url().split("/").pop()!.split("?")[0]}`;
  const begin = await version(request, api);
  await page.keyboard.press("3");

  await test.step("float and turn, and their words", async () => {
    await addMove(page, "Arm", /^Float/);
    await expect(page.getByText("closes: twice in the loop")).toBeVisible();
    await fill(page, "Period", "24 f");
    await expect(page.getByText("closes: 4 times in the loop")).toBeVisible();
    await addMove(page, "Arm", /^Turn about/);
    const turn = page.getByTestId("move-turn"); // the turntable has turns too
    await turn.getByLabel("Turns", { exact: true }).fill("2");
    await page.keyboard.press("Enter");
    await expect(page.getByText("closes: 2 laps")).toBeVisible();
    await page.getByRole("button", { name: "Pace: constant speed" }).first().click();
    await page.getByRole("option", { name: "a sine" }).click();
    await expect(page.getByRole("button", { name: "Gentle: gentle at both ends" })).toBeVisible();
  });

  await test.step("a roll by the measured radius does not slip", async () => {
    await addMove(page, "Foot", /^Roll/);
    await expect(page.getByLabel("Radius of what rolls", { exact: true })).toHaveValue("10"); // the foot is 20 mm high
    await page.getByRole("button", { name: /^Afterwards: goes there and back/ }).first().click();
    await page.getByRole("option", { name: "stays" }).click();
    await expect(page.getByText(/does not close: it jumps .* mm at the seam/)).toBeVisible();
    const at = bakery();
    const up = at("Bracket", 0).invert();
    const [a, b] = [1, 2].map((f) => up.clone().multiply(at("Bracket", 0)).multiply(at("Bracket", f).invert()).multiply(at("Foot", f)));
    const way = place(b!).distanceTo(place(a!));
    const turn = new THREE.Quaternion().setFromRotationMatrix(a!).angleTo(new THREE.Quaternion().setFromRotationMatrix(b!));
    expect(way).toBeCloseTo(0.01 * turn, 7); // distance = radius x angle
    await page.getByRole("button", { name: "Go there and back" }).click();
    await expect(page.getByText(/does not close/)).toBeHidden();
  });

  await test.step("a pose is pinned, held, copied to the end and made constant", async () => {
    await page.getByRole("treeitem", { name: "Bracket", exact: true }).click();
    await page.keyboard.press("p");
    await expect(page.getByText("pinned on 0")).toBeVisible();
    await page.evaluate(() => window.perigyre!.seek(40));
    await fill(page, "Moved up, y", "30");
    await expect(page.getByText("pinned on 40")).toBeVisible();
    // Two edits of the same pins, the second made before the first is answered: both stand.
    let answer = () => {};
    const asked = new Promise<void>((r) => (answer = r));
    await page.route("**/edits", async (route) => {
      await asked;
      await route.continue();
    });
    await page.getByRole("button", { name: "To the next pin: smooth" }).click();
    await page.getByRole("option", { name: "hold until then" }).click();
    await page.evaluate(() => window.perigyre!.seek(70));
    await fill(page, "Moved up, y", "0");
    answer();
    await expect
      .poll(() => {
        const held = bakery();
        return place(held("Bracket", 69)).y - place(held("Bracket", 0)).y;
      })
      .toBeCloseTo(0.03, 9);
    await page.unroute("**/edits");
    await page.getByRole("button", { name: "Match ends" }).click();
    await expect(page.getByLabel("Pins of Bracket: 4", { exact: true })).toBeVisible();
    await page.getByRole("button", { name: "Make constant" }).click();
    await expect
      .poll(() => {
        const at = bakery();
        return Number((place(at("Bracket", 20)).y - place(at("Bracket", 0)).y).toFixed(9));
      })
      .toBe(0.015); // half way between the first two pins
  });

  await test.step("a pin is dragged in the score", async () => {
    const lane = (await page.getByLabel("Pins of Bracket: 4", { exact: true }).boundingBox())!;
    const ruler = (await page.getByTestId("ruler").boundingBox())!;
    const x = (f: number) => ruler.x + 58 + (f * (ruler.width - 116)) / 96;
    await page.mouse.move(x(40), lane.y + 10);
    await page.mouse.down();
    await page.mouse.move(x(50), lane.y + 10, { steps: 4 });
    await page.mouse.up();
    await expect
      .poll(async () => (await version(request, api)).parts.find((p: { name: string }) => p.name === "Bracket").tracks.find((t: { value: string }) => t.value === "y").pins[1].time)
      .toBe(50);
  });

  await test.step("two parts are driven from one by 2 and 1/3", async () => {
    const gear = async (part: string, num: string, den: string) => {
      await addMove(page, part, /^Gear/);
      const sentence = page.getByTestId("move-gear").first();
      await sentence.getByRole("button", { name: /^Driver:/ }).click();
      await page.getByRole("option", { name: "Turntable" }).click();
      await fill(page, "Driver's teeth", num);
      await fill(page, "Own teeth", den);
    };
    await gear("Plinth", "2", "1");
    await gear("Key softbox", "1", "3");
    await expect(page.getByText("does not close: it jumps 120 degrees at the seam")).toBeVisible();
    await page.getByRole("button", { name: "Turntable makes 3 turns" }).click();
    await expect(page.getByText(/jumps 120 degrees/)).toBeHidden();
    await page.keyboard.press("Control+z");
    await expect(page.getByText("does not close: it jumps 120 degrees at the seam")).toBeVisible();
    const angle = (m: THREE.Matrix4) => Math.atan2(m.elements[8]!, m.elements[10]!);
    const table = () => angle(bakery()("Turntable", 10));
    await expect.poll(() => Math.abs(table())).toBeCloseTo((10 / 96) * 2 * Math.PI, 6); // one turn again
    const at = bakery();
    expect(angle(at("Turntable", 10).invert().multiply(at("Plinth", 10)))).toBeCloseTo(-2 * table(), 6);
  });

  await test.step("eight copies are staggered", async () => {
    await page.keyboard.press("2");
    await page.getByRole("treeitem", { name: "Arm", exact: true }).click();
    await page.getByRole("button", { name: "Copies", exact: true }).click();
    await fill(page, "Each later by", "3");
    await expect
      .poll(async () => {
        const c = (await version(request, api)).parts.find((p: { kind: string }) => p.kind === "copies").copies;
        return [c.count[0], c.delay];
      })
      .toEqual([8, 3]);
  });

  await test.step("all is stretched from 96 to 120 frames", async () => {
    await page.keyboard.press("3");
    await page.getByRole("treeitem", { name: "Arm", exact: true }).click();
    await fill(page, "Stretch everything to", "120");
    await expect(page.getByLabel("Length of the shot", { exact: true })).toHaveValue("120");
    await expect(page.getByLabel("Period", { exact: true })).toHaveValue("30");
    await expect(page.getByText("closes: 4 times in the loop")).toBeVisible();
  });

  await test.step("the motion is the same in a GLB that three reads", async () => {
    const file = join(mkdtempSync(join(tmpdir(), "perigyre-glb-")), "bracket.glb");
    execFileSync(binary, ["export", server.data, "--shot", "Turntable", "--glb", file]);
    const gltf = await new GLTFLoader().parseAsync(new Uint8Array(readFileSync(file)).buffer, "");
    const mixer = new THREE.AnimationMixer(gltf.scene);
    mixer.clipAction(gltf.animations[0]!).play();
    const at = bakery();
    let worst = 0;
    for (let f = 0; f < 120; f += 7) {
      mixer.setTime(f / 24 + 1e-7); // a little later than the sample, whose time is a float32
      gltf.scene.updateMatrixWorld(true);
      for (const part of ["Turntable", "Bracket", "Arm", "Foot", "Plinth", "Key_softbox", "Three-quarter"]) {
        const theirs = gltf.scene.getObjectByName(part)!.matrixWorld.elements;
        at(part.replace("_", " "), f).elements.forEach((v, k) => (worst = Math.max(worst, Math.abs(v - theirs[k]!))));
      }
    }
    expect(worst).toBeLessThan(2e-5);
  });

  await test.step("all of it is undone, and done again", async () => {
    const end = await version(request, api);
    const shot = async () => (await request.get(api)).json();
    const press = async (name: string) => {
      const before = (await shot()).version;
      await expect(page.getByRole("button", { name })).toBeEnabled();
      await page.getByRole("button", { name }).click();
      await expect.poll(async () => (await shot()).version).toBe(before + 1);
    };
    let steps = 0;
    for (; (await shot()).canUndo; steps++) await press("Undo");
    expect(steps).toBeGreaterThan(20);
    expect(await version(request, api)).toEqual(begin);
    for (let k = 0; k < steps; k++) await press("Redo");
    expect(await version(request, api)).toEqual(end);
  });
});

test("pins are recorded, chosen, scaled, copied, bent by handles and put on a move's numbers", async ({ page, request }) => {
  await page.goto(server.address + "/?plain");
  await dropModel(page, "bracket.glb", await bracket());
  await expect(page.getByRole("treeitem", { name: "Arm" })).toBeVisible();
  await ready(page, 0);
  const api = `${server.address}/api/shots/${page.url().split("/").pop()!.split("?")[0]}`;
  const part = async (name: string) =>
    (await version(request, api)).parts.find((p: { name: string }) => p.name === name) as {
      rest: { position: number[] };
      tracks?: { value: string; pins: { time: number; value: number; next?: string; out?: { value: number } }[] }[];
      moves: { pins?: { value: string; pins: { time: number; value: number }[] }[] }[];
    };
  const times = async (name: string, value: string) => (await part(name)).tracks?.find((t) => t.value === value)?.pins.map((p) => p.time);
  await page.keyboard.press("3");
  await page.getByRole("treeitem", { name: "Arm", exact: true }).click();

  await test.step("dragging while recording pins the part, and leaves its rest", async () => {
    const rest = (await part("Arm")).rest.position;
    await page.keyboard.press("r");
    await expect(page.getByText("Recording: what you change is pinned on frame")).toBeVisible();
    await page.evaluate(() => window.perigyre!.seek(20));
    const grip = (await page.getByTestId("drag-y").locator("circle").boundingBox())!;
    const [x, y] = [grip.x + grip.width / 2, grip.y + grip.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x, y - 30, { steps: 4 });
    await page.mouse.up();
    await expect.poll(() => times("Arm", "y")).toEqual([0, 20]);
    const arm = await part("Arm");
    expect(arm.rest.position).toEqual(rest);
    expect(arm.tracks![0]!.pins[0]!.value ?? 0).toBe(0);
    expect(arm.tracks![0]!.pins[1]!.value).toBeGreaterThan(0.001);
    await page.keyboard.press("r");
  });

  await test.step("what a frame chooses is scaled, dragged with a copy, and reversed", async () => {
    const pin = page.locator("[data-pin='20']");
    const at = (await pin.boundingBox())!; // once the answer is there, with which the lanes change
    const lanes = (await page.getByTestId("lanes").boundingBox())!;
    await page.mouse.move(lanes.x + 20, lanes.y + lanes.height - 6);
    await page.mouse.down();
    await page.mouse.move(at.x + 40, at.y - 4, { steps: 4 });
    await page.mouse.up();
    await expect(page.getByTestId("chosen")).toContainText("2 pins");
    await fill(page, "Length of what is chosen", "24 f");
    await expect.poll(() => times("Arm", "y")).toEqual([0, 24]);
    await page.evaluate(() => window.perigyre!.seek(40));
    await page.getByRole("button", { name: "copy here" }).click();
    await expect.poll(() => times("Arm", "y")).toEqual([0, 24, 40, 64]);
    await page.getByTestId("chosen").getByRole("button", { name: "reverse" }).click();
    await expect.poll(async () => (await part("Arm")).tracks![0]!.pins[0]!.value).toBeGreaterThan(0.001);
    await page.getByRole("treeitem", { name: "Foot", exact: true }).click();
    await page.evaluate(() => window.perigyre!.seek(10));
    await page.getByRole("button", { name: "copy here" }).click();
    await expect.poll(() => times("Foot", "y")).toEqual([10, 34]);
    await page.getByRole("button", { name: "let go" }).click();
  });

  await test.step("a curve gets handles, which are dragged", async () => {
    await page.getByRole("treeitem", { name: "Arm", exact: true }).click();
    await page.evaluate(() => window.perigyre!.seek(24));
    await page.getByRole("button", { name: /^To the next pin/ }).click();
    await page.getByRole("option", { name: /a curve of its own/ }).click();
    await expect.poll(async () => (await part("Arm")).tracks![0]!.pins[1]!.next).toBe("curve");
    await page.getByRole("button", { name: "Curves of Arm" }).click();
    const handle = page.getByTestId("handle-out-y-24");
    const h = (await handle.boundingBox())!;
    const was = (await part("Arm")).tracks![0]!.pins[1]!.out!.value ?? 0;
    await page.mouse.move(h.x + 3, h.y + 3);
    await page.mouse.down();
    await page.mouse.move(h.x + 8, h.y - 25, { steps: 4 });
    await page.mouse.up();
    await expect.poll(async () => (await part("Arm")).tracks![0]!.pins[1]!.out!.value).toBeGreaterThan(was + 1e-4);
  });

  await test.step("a number of a move has pins, seen in the score", async () => {
    await addMove(page, "Arm", /^Swing/);
    await page.evaluate(() => window.perigyre!.seek(0));
    await page.getByRole("button", { name: "Pin Amplitude here" }).click();
    await expect(page.getByRole("button", { name: "Curves of swing of Arm" })).toBeVisible();
    await page.evaluate(() => window.perigyre!.seek(48));
    await fill(page, "Amplitude", "40");
    await expect.poll(async () => (await part("Arm")).moves[0]!.pins?.[0]?.pins.map((p) => Math.round((p.value * 180) / Math.PI))).toEqual([15, 40]);
    // How long an edit takes to its new picture, here with WebGL in software; reported, not asserted.
    const before = await page.evaluate(() => window.perigyre!.drawn());
    const began = Date.now();
    await fill(page, "Amplitude", "30");
    await page.waitForFunction((v) => window.perigyre!.drawn() > v, before);
    console.log(`edit to new picture: ${Date.now() - began} ms`);
  });
});
