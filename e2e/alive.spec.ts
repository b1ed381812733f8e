import { expect, test, type Page } from "@playwright/test";
import { PNG } from "pngjs";
import { figure } from "./figure.mjs";
import { dropModel, partOf, pick, reply, step, type } from "./pages.js";
import { ready, start } from "./server.mjs";

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("serve");
});
test.afterEach(async () => server.stop());

/** How much of what the picture and the render cover, they both do. */
async function overlap(page: Page, frame: number, last: number): Promise<number> {
  const size = 300;
  const at = new URL(page.url());
  const { version } = (await (await page.request.get(at.origin + "/api" + at.pathname)).json()) as { version: number };
  await page.waitForFunction((v) => (window.perigyre?.drawn() ?? 0) >= v, version); // the last edit is in the picture
  await ready(page, frame);
  const view = await page.evaluate((n) => window.perigyre!.pixels(n, n), size);
  const settings = { width: size, height: size, from: 0, to: last, first: 1, padding: 4, name: "{frame}", quality: "draft", bits: 8, backdrop: null };
  const test = await page.request.post(at.origin + "/api" + at.pathname + "/test", { data: { settings, frame }, timeout: 120_000 });
  const rendered = PNG.sync.read(await test.body()).data;
  let [both, either] = [0, 0];
  for (let i = 3; i < rendered.length; i += 4) {
    const [a, b] = [rendered[i]! >= 128, view[i]! >= 128];
    if (a && b) both++;
    if (a || b) either++;
  }
  expect(either).toBeGreaterThan(8_000);
  return both / either;
}

test("a figure's clip and its turntable close together, and the picture shows it as it is rendered", async ({ page }) => {
  await page.goto(server.address);
  await dropModel(page, "bird.glb", await figure());
  await ready(page, 0);
  await expect(page.getByText("The clip Stroll, 3.542 s long, moves 13 parts and is played.")).toBeVisible();

  await step(page, "3 Move");
  await page.getByRole("treeitem", { name: "bird", exact: true }).click();
  const play = page.getByTestId("move-play");
  await expect(play.getByText("does not close: 96 / 85")).toBeVisible();
  await expect(play.getByRole("button", { name: "Once at 88.54 % of its speed" })).toBeVisible();
  await play.getByRole("button", { name: "Shot as long as the clip" }).click();
  await expect(play.getByText("closes: once in the loop")).toBeVisible();
  await expect.poll(async () => (await reply(page)).document.frames).toBe(85);
  expect((await reply(page)).loop.closes).toBe(true);

  // Check finds nothing that blocks: what hangs on bones of one figure may lie in each other.
  await step(page, "6 Check");
  const sheet = page.getByRole("complementary").last();
  await expect(sheet.getByText("Looking at the shot")).toHaveCount(0);
  await expect(sheet.getByRole("heading", { name: "Body passes through Tail look" })).toBeVisible();
  await expect(sheet.getByRole("heading", { name: /blocks$/ })).toHaveCount(0);

  // Another clip of the file, which does not end as it begins; and back.
  await step(page, "3 Move");
  await page.getByRole("treeitem", { name: "bird", exact: true }).click();
  await pick(page, /^Clip: /, /^Nod/);
  await expect(play.getByText(/does not close/)).toBeVisible();
  await pick(page, /^Clip: /, /^Stroll/);
  await expect(play.getByText("closes: once in the loop")).toBeVisible();

  // It plays.
  await page.keyboard.press("Space");
  await expect.poll(() => page.evaluate(() => window.perigyre!.frame())).toBeGreaterThan(5);
  await page.keyboard.press("Space");

  // A shape is mixed in at rest.
  await step(page, "2 Arrange");
  await page.getByRole("treeitem", { name: "Bird", exact: true }).getByRole("button", { name: "Open" }).click();
  await page.getByRole("treeitem", { name: "Body", exact: true }).click();
  await type(page, "Puff", "100");
  await expect.poll(async () => ((await partOf(page, "Body")) as unknown as { morphs: { weight: number }[] }).morphs[0]!.weight).toBe(1);

  // The floor's shadow is alpha too, which the views show in their own way.
  await page.getByRole("treeitem", { name: "Floor, shadow only" }).click();
  await page.getByRole("switch", { name: "In the render" }).click();
  await page.getByRole("treeitem", { name: "Plinth", exact: true }).click();
  await page.getByRole("switch", { name: "In the render" }).click();
  await expect.poll(async () => (await reply(page)).document.parts.filter((p) => (p as { hidden?: boolean }).hidden).length).toBe(2);
  for (const frame of [0, 23, 60]) expect(await overlap(page, frame, 84)).toBeGreaterThan(0.99);

  // As pins the same clip can be changed by hand.
  await step(page, "3 Move");
  await page.getByRole("treeitem", { name: "bird", exact: true }).click();
  await play.getByRole("button", { name: "Turn into pins" }).click();
  await expect.poll(async () => (await partOf(page, "Hips")).tracks?.length).toBe(1);
  expect((await partOf(page, "bird")).moves).toEqual([]);
  expect((await reply(page)).loop.closes).toBe(true);
  expect(await overlap(page, 23, 84)).toBeGreaterThan(0.99);
});

interface CageMove {
  kind: string;
  cage: { n: number[]; points: number[][]; mirror: string };
  pins?: { value: string; pins: { time: number; value: number }[] }[];
}

test("a cage on a soft ball goes from one shape to another and back every 20 frames", async ({ page }) => {
  await page.goto(server.address);
  await page.getByRole("button", { name: "a shape", exact: true }).click();
  await page.waitForURL(/\/shots\//);
  await ready(page, 0);
  await page.getByRole("treeitem", { name: "Sphere" }).click();
  await step(page, "3 Move");
  await type(page, "Length of the shot", "40");
  await page.getByRole("button", { name: "adds a move" }).first().click();
  await page.getByRole("menuitem", { name: /^Cage/ }).click();
  const words = page.getByTestId("move-cage");
  await expect(words.getByText("closes: it ends as it begins")).toBeVisible();
  const cage = async () => ((await partOf(page, "Sphere")).moves as unknown as CageMove[]).find((m) => m.kind === "cage")!;
  const drag = async (point: string, x: number, y: number) => {
    const before = JSON.stringify(await cage());
    const box = (await page.getByLabel(`Handle: Point ${point}`, { exact: true }).boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width / 2 + x, box.y + box.height / 2 + y, { steps: 4 });
    await page.mouse.up();
    await expect.poll(async () => JSON.stringify(await cage())).not.toBe(before);
  };

  // Left goes as right does.
  await pick(page, /^Mirrored: /, "left as right");
  await expect.poll(async () => (await cage()).cage.mirror).toBe("x");
  await drag("1 2 2", -30, 0);
  const [left, right] = await (async () => [(await cage()).cage.points[12]!, (await cage()).cage.points[14]!])();
  expect(left[0]).not.toBe(0);
  expect([-right[0]!, right[1], right[2]]).toEqual(left);

  // Pinned on frame 0, and elsewhere on frame 20; then back where the loop begins anew.
  await words.getByRole("button", { name: "Pin here" }).click();
  await expect.poll(async () => (await cage()).pins?.length).toBe(3);
  await ready(page, 20);
  await drag("1 2 2", 45, -25);
  await expect(words.getByText(/does not close/)).toBeVisible();
  await words.getByRole("button", { name: "Let its pins end as they begin" }).click();
  await expect(words.getByText("closes: it ends as it begins")).toBeVisible();
  const pins = (await cage()).pins!.find((p) => p.value === "point 12 x")!.pins;
  expect(pins.map((p) => p.time)).toEqual([0, 20, 40]);
  expect(pins[2]!.value).toBe(pins[0]!.value);
  expect(pins[1]!.value).not.toBeCloseTo(pins[0]!.value, 3);

  // Four points of another number each way: the shape stays nearly as it was.
  await pick(page, /^Points over its height/, "4");
  await expect.poll(async () => (await cage()).cage.points.length).toBe(36);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect.poll(async () => (await cage()).cage.points.length).toBe(27);

  await page.getByRole("treeitem", { name: "Floor, shadow only" }).click();
  await step(page, "2 Arrange");
  await page.getByRole("switch", { name: "In the render" }).click();
  await expect.poll(async () => (await reply(page)).document.parts.some((p) => (p as { hidden?: boolean }).hidden)).toBe(true);
  for (const frame of [0, 10, 20]) expect(await overlap(page, frame, 39)).toBeGreaterThan(0.99);
});
