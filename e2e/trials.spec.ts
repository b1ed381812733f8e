import { expect, test, type Page } from "@playwright/test";
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { cart, crane } from "./models.js";
import { add, dropModel, empty, made, partOf, pick, reply, step, type } from "./pages.js";
import { ready, start } from "./server.mjs";

// Longer trials as people do them: a file of their own or an empty shot, the layout that comes first, and the mouse.

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("serve");
});
test.afterEach(async () => server.stop());

/** Presses the bench where a point of the room lies. */
async function pressBench(page: Page, x: number, y: number, z: number) {
  const [px, py] = (await page.evaluate(([x, y, z]) => window.perigyre!.onBench(x!, y!, z!), [x, y, z])) as [number, number];
  await page.mouse.click(px, py);
}

interface Measures {
  low: number[];
  high: number[];
  size: number[];
  pivot: number[];
}

/** What the core measures of a part, in the room. */
async function measures(page: Page, name: string): Promise<Measures> {
  const at = new URL(page.url());
  const { id } = await partOf(page, name);
  return (await page.request.get(`${at.origin}/api${at.pathname}/parts/${id}/measures`)).json();
}

/** Turns the bench round by dragging it. */
async function orbit(page: Page, degrees: number) {
  const b = (await page.getByTestId("bench").boundingBox())!;
  await page.mouse.move(b.x + b.width / 2, b.y + b.height - 12);
  await page.mouse.down();
  await page.mouse.move(b.x + b.width / 2 + (b.height * degrees) / 360, b.y + b.height - 12, { steps: 6 });
  await page.mouse.up();
}

test("a vehicle: its wheels on an axle between two picked points, halved, stood, and seen by a second camera", async ({ page }) => {
  await page.goto(server.address);
  await dropModel(page, "cart.obj", cart());
  await ready(page);
  await step(page, "2 Arrange");
  await page.getByRole("treeitem", { name: "Wheel left" }).click();
  await page.getByRole("treeitem", { name: "Wheel right" }).click({ modifiers: ["Control"] });
  await page.getByRole("button", { name: "Group…" }).click();
  await page.getByRole("textbox", { name: "Name of the group" }).fill("Axle");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("treeitem", { name: "Axle", selected: true })).toBeVisible();

  // The foremost point of the one wheel, and, from the other side, the hindmost of the other.
  await page.getByRole("button", { name: "Between two…" }).click();
  const [left, right] = [await measures(page, "Wheel left"), await measures(page, "Wheel right")];
  const middle = (m: Measures, k: number) => (m.low[k]! + m.high[k]!) / 2;
  await pressBench(page, right.high[0]!, middle(right, 1), right.high[2]!);
  await orbit(page, 160);
  await pressBench(page, left.low[0]!, middle(left, 1), left.low[2]!);
  const axle = async () => (await measures(page, "Axle")).pivot;
  for (const k of [0, 1, 2]) await expect.poll(async () => (await axle())[k]).toBeCloseTo((middle(left, k) + middle(right, k)) / 2, 5);

  // The whole of it at half its size, standing on the plinth.
  await page.getByRole("treeitem", { name: "cart", exact: true }).click();
  const before = await measures(page, "cart");
  await type(page, "Of its size when it came", "50");
  await expect.poll(async () => (await measures(page, "cart")).size[0]).toBeCloseTo(before.size[0]! / 2, 6);
  await type(page, "Up, y", "120"); // in the air
  await expect.poll(async () => (await measures(page, "cart")).low[1]).toBeGreaterThan(0.1);
  await page.getByRole("button", { name: "Stand", exact: true }).click();
  const top = (await measures(page, "Plinth")).high[1]!;
  await expect.poll(async () => (await measures(page, "cart")).low[1]).toBeCloseTo(top, 6);

  // A camera that rides along beside the wheel and looks at the body; three angles, compared.
  await step(page, "4 Frame");
  const first = (await reply(page)).document.camera;
  await page.getByRole("button", { name: "Keep the picture" }).click();
  await page.getByRole("button", { name: "Keep the bench" }).click();
  await orbit(page, 60);
  await page.getByRole("button", { name: "Keep the bench" }).click();
  await expect.poll(async () => (await reply(page)).document.angles?.length).toBe(3);
  const boxes = page.getByRole("checkbox", { name: "compare" });
  for (const k of [0, 1, 2]) await boxes.nth(k).check();
  await page.getByRole("button", { name: "Compare 3" }).click();
  await expect(page.getByTestId("pane")).toHaveCount(3);
  const place = async () => (await reply(page)).document.parts.find((p) => p.id === first)!.rest;
  const kept = await place();
  const use = (k: number) => page.getByRole("group", { name: "Angles, compared" }).getByRole("button", { name: "use it" }).nth(k).click();
  await use(1);
  await expect.poll(place).not.toEqual(kept);
  await page.getByRole("button", { name: "Compare 3" }).click();
  await use(0);
  for (const of of ["position", "rotation"] as const)
    for (const k of kept[of].keys()) await expect.poll(async () => (await place())[of][k]).toBeCloseTo(kept[of][k]!, 9);

  await page.getByRole("button", { name: "Add one from the bench" }).click();
  await pick(page, /^Rides along with/, "Axle");
  await pick(page, /^Kept aimed at/, "Body");
  await page.getByRole("button", { name: "use", exact: true }).click();
  await expect.poll(async () => (await reply(page)).document.camera).not.toBe(first);
  const { document } = await reply(page);
  const second = document.parts.find((p) => p.id === document.camera)!;
  expect(second.parent).toBe((await partOf(page, "Axle")).id);
  expect(second.moves.map((m) => m.kind)).toEqual(["aim"]);
});

test("an assembly 743 m long is brought to 30 cm, upright, with a front, and turns about the room's upright axis", async ({ page }) => {
  await page.goto(server.address);
  await dropModel(page, "crane.obj", crane());
  await ready(page);
  await step(page, "1 Bring in");
  await pick(page, /^Unit/, "metre");
  await pick(page, /^Upright axis/, "z is upright");
  await expect.poll(async () => (await measures(page, "crane")).high[1]! - (await measures(page, "crane")).low[1]!).toBeCloseTo(528, 3);
  await step(page, "2 Arrange");
  await page.getByRole("treeitem", { name: "crane", exact: true }).click();
  await type(page, "Height", "30 cm"); // along its own y: it is 743 m long there
  const size = async () => (await measures(page, "crane")).size;
  await expect.poll(async () => (await size())[1]).toBeCloseTo(0.3, 6);
  expect((await measures(page, "Plinth")).size[0]).toBeLessThan(0.5); // it was made for the model, and goes with it
  await pick(page, /^Front/, "its y side");
  await expect.poll(async () => (await partOf(page, "crane")).front).toEqual([0, 1, 0]);

  await step(page, "3 Move");
  await page.keyboard.press("m");
  await page.getByRole("menuitem", { name: /^Turn\b/i }).first().click();
  await expect.poll(async () => (await partOf(page, "crane")).moves).toMatchObject([{ kind: "turn", turn: { axis: [0, 1, 0], frame: "room" } }]);
  expect((await reply(page)).loop.closes).toBe(true);
  const { pivot, low, high } = await measures(page, "crane"); // on the axis, though its file lies kilometres from its origin
  for (const [at, want] of [[pivot[0]!, 0], [pivot[1]!, low[1]!], [pivot[2]!, 0]] as const) expect(at).toBeCloseTo(want, 5);
  expect(high[1]! - low[1]!).toBeCloseTo((0.3 * 528) / 743, 5);
});

/** Brings the playhead to a frame by pressing the ruler, whose two ends show what comes before and after the loop. */
async function seek(page: Page, frame: number) {
  const { frames } = (await reply(page)).document;
  const r = (await page.getByTestId("ruler").boundingBox())!;
  const wrap = 58;
  await page.mouse.click(r.x + wrap + ((r.width - 2 * wrap) * (frame + 0.5)) / frames, r.y + r.height / 2);
  await expect.poll(() => page.evaluate(() => window.perigyre!.frame())).toBe(frame);
}

test("a character: eyes in its body, six held poses by typing, two blinks, and its frames on exact white", async ({ page }) => {
  await empty(page, server.address);
  await step(page, "2 Arrange");
  await add(page, "capsule");
  await type(page, "Name", "Body");
  await add(page, "sphere");
  await type(page, "Name", "Left eye");
  await type(page, "Height", "18");
  await type(page, "Right, x", "-16");
  await type(page, "Up, y", "70");
  await type(page, "Forwards, z", "22");
  await made(page, () => page.getByRole("button", { name: "Duplicate" }).click());
  await type(page, "Name", "Right eye");
  await type(page, "Right, x", "16");
  await expect(page.getByRole("treeitem", { name: "Left eye 2" })).toHaveCount(0);
  await page.getByRole("treeitem", { name: "Left eye" }).click();
  await page.getByRole("treeitem", { name: "Right eye" }).click({ modifiers: ["Control"] });
  await page.getByRole("treeitem", { name: "Left eye" }).dragTo(page.getByRole("treeitem", { name: "Body" }));
  const body = (await partOf(page, "Body")).id;
  for (const eye of ["Left eye", "Right eye"]) await expect.poll(async () => (await partOf(page, eye)).parent).toBe(body);
  for (const k of [1, 2]) expect((await partOf(page, "Left eye")).rest.position[k]).toBeCloseTo([0, 0.07, 0.022][k]!, 5);

  await step(page, "3 Move");
  await type(page, "Length of the shot", "91");
  await page.getByRole("treeitem", { name: "Body" }).click();
  await page.getByRole("button", { name: "all values" }).click();
  const poses = [0, 12, -12, 8, -8, 0];
  for (const [k, degrees] of poses.entries())
    for (const at of [15 * k, 15 * k + 8]) {
      await seek(page, at);
      await type(page, "Turned about z", String(degrees)); // and once more, so that it holds
      await expect(page.getByText(`pinned on ${at}`)).toBeVisible();
    }
  const leans = (await partOf(page, "Body")).tracks!.find((t) => t.value === "turn z")!.pins;
  expect(leans.map((p) => p.time)).toEqual(poses.flatMap((_, k) => [15 * k, 15 * k + 8]));
  for (const [k, p] of leans.entries()) expect(((p.value ?? 0) * 180) / Math.PI).toBeCloseTo(poses[k >> 1]!, 6);

  await page.getByRole("treeitem", { name: "Left eye" }).click();
  await page.getByRole("treeitem", { name: "Right eye" }).click({ modifiers: ["Control"] });
  await page.getByRole("button", { name: "all values" }).click();
  for (const blink of [20, 62])
    for (const [at, share] of [[blink, "100"], [blink + 2, "8"], [blink + 4, "100"]] as const) {
      await seek(page, at);
      await type(page, "Height, of rest", share);
      await expect(page.getByText(`pinned on ${at}`)).toBeVisible();
    }
  for (const eye of ["Left eye", "Right eye"]) expect((await partOf(page, eye)).tracks!.map((t) => [t.value, t.pins.length])).toEqual([["height", 6]]);

  // A white stage behind it: the camera stays where it was.
  const camera = async () => (await partOf(page, "Three-quarter")).rest.position;
  const there = await camera();
  await add(page, "sweep");
  await expect.poll(async () => (await partOf(page, "Sweep")).set).toBe(true);
  expect(await camera()).toEqual(there);
  await page.keyboard.press("Delete");
  await expect.poll(async () => await partOf(page, "Sweep")).toBeUndefined();

  await step(page, "5 Light");
  await page.getByRole("switch", { name: "Transparent backdrop" }).click();
  const white = page.getByRole("textbox", { name: "Backdrop, as a number" });
  await white.fill("#ffffff");
  await white.press("Enter");
  await step(page, "7 Render");
  await type(page, "Width", "64");
  await pick(page, /^Quality/, /^draft/);
  await expect(page.getByTestId("names")).toContainText("91 frames");
  await page.getByRole("button", { name: "Render", exact: true }).click();
  await expect(page.getByTestId("run-state")).toContainText(/[1-9]\d* of 91 frames/); // watched as they come
  await expect(page.getByTestId("run-state")).toContainText("done, 91 of 91 frames", { timeout: 60_000 });
  const folder = join(server.data, "renders", readdirSync(join(server.data, "renders"))[0]!);
  const files = readdirSync(folder).filter((f) => f.endsWith(".png"));
  expect(files).toHaveLength(91);
  for (const f of [files[0]!, files[45]!, files[90]!]) {
    const corner = await page.evaluate(async (data) => {
      const picture = await createImageBitmap(new Blob([Uint8Array.from(atob(data), (c) => c.charCodeAt(0))]));
      const c = new OffscreenCanvas(picture.width, picture.height).getContext("2d")!;
      c.drawImage(picture, 0, 0);
      return [...c.getImageData(1, 1, 1, 1).data, ...c.getImageData(picture.width - 2, 1, 1, 1).data];
    }, readFileSync(join(folder, f)).toString("base64"));
    expect(corner).toEqual(Array(8).fill(255));
  }
});
