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
async function overlap(page: Page, frame: number): Promise<number> {
  const size = 300;
  await ready(page, frame);
  const view = await page.evaluate((n) => window.perigyre!.pixels(n, n), size);
  const at = new URL(page.url());
  const settings = { width: size, height: size, from: 0, to: 84, first: 1, padding: 4, name: "{frame}", quality: "draft", bits: 8, backdrop: null };
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
  for (const frame of [0, 23, 60]) expect(await overlap(page, frame)).toBeGreaterThan(0.99);

  // As pins the same clip can be changed by hand.
  await step(page, "3 Move");
  await page.getByRole("treeitem", { name: "bird", exact: true }).click();
  await play.getByRole("button", { name: "Turn into pins" }).click();
  await expect.poll(async () => (await partOf(page, "Hips")).tracks?.length).toBe(1);
  expect((await partOf(page, "bird")).moves).toEqual([]);
  expect((await reply(page)).loop.closes).toBe(true);
  expect(await overlap(page, 23)).toBeGreaterThan(0.99);
});
