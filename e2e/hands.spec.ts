import { expect, test } from "@playwright/test";
import { bracket } from "./models.js";
import { add, dropModel, empty, reply, step, type } from "./pages.js";
import { ready, start } from "./server.mjs";

// Trials as people start: an empty program, the layout that comes first, WebGL as it comes, and the mouse.

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("serve");
});
test.afterEach(async () => server.stop());

test("an empty shot: a flattened sphere, and a small part that skims round it five laps", async ({ page }) => {
  await empty(page, server.address);
  await add(page, "sphere");
  await page.getByRole("switch", { name: "Keep the proportions" }).click();
  await type(page, "Height", "60");
  await expect.poll(async () => (await reply(page)).document.parts.find((p) => p.name === "Sphere")!.rest.size[1]).toBeCloseTo(0.6, 6);
  await add(page, "box");
  await type(page, "Width", "10"); // the others along with it
  await step(page, "3 Move");
  await page.keyboard.press("Control+k");
  await page.getByRole("combobox", { name: "Command" }).fill("skim");
  await page.getByRole("option", { name: "Give Box the move skim" }).click();
  await expect(page.getByText("skims over")).toBeVisible();
  await type(page, "Laps", "5");
  await expect
    .poll(async () => {
      const d = (await reply(page)).document.parts.find((p) => p.name === "Box")!.moves[0] as unknown as { skim: { laps: number; contour: unknown[] } };
      return [d.skim.laps, d.skim.contour.length > 10];
    })
    .toEqual([5, true]);
  expect((await reply(page)).loop.closes).toBe(true);
  await page.keyboard.press("Control+z");
  await expect
    .poll(async () => ((await reply(page)).document.parts.find((p) => p.name === "Box")!.moves[0] as unknown as { skim: { laps: number } }).skim.laps)
    .toBe(1);
});

test("a rig bound to the camera, and the highlight where it is pressed", async ({ page }) => {
  await page.goto(server.address);
  await dropModel(page, "bracket.glb", await bracket());
  await ready(page);
  await step(page, "5 Light");
  await page.getByRole("button", { name: "top box, two rims" }).click();
  await expect.poll(async () => (await reply(page)).document.parts.filter((p) => p.light?.rig === "top box, two rims").length).toBe(3);
  await page.getByRole("button", { name: /^All bound to/ }).click();
  await page.getByRole("option", { name: /the camera in use/ }).click();
  const camera = (await reply(page)).document.camera;
  await expect.poll(async () => (await reply(page)).document.parts.filter((p) => p.parent === camera).length).toBe(3);

  const before = (await reply(page)).document.parts.find((p) => p.name === "Left rim")!;
  await page.getByRole("group", { name: "Light plan, from above" }).getByText("Left rim").click();
  await page.getByRole("button", { name: "Put its highlight…" }).click();
  const picture = (await page.getByTestId("picture").boundingBox())!;
  await page.mouse.click(picture.x + picture.width * 0.45, picture.y + picture.height * 0.62);
  await expect
    .poll(async () => (await reply(page)).document.parts.find((p) => p.name === "Left rim")!.rest.position)
    .not.toEqual(before.rest.position);
  const after = (await reply(page)).document.parts.find((p) => p.name === "Left rim")!;
  expect(after.parent).toBe(camera);
  await page.keyboard.press("Control+z"); // one step
  await expect
    .poll(async () => (await reply(page)).document.parts.find((p) => p.name === "Left rim")!.rest.position)
    .toEqual(before.rest.position);
});

test("angles are kept, compared and used, and coming back changes nothing; a second camera rides along, aimed", async ({ page }) => {
  await page.goto(server.address);
  await dropModel(page, "bracket.glb", await bracket());
  await ready(page);
  await step(page, "4 Frame");
  await page.getByRole("button", { name: "Keep the picture" }).click();
  await page.getByRole("button", { name: "Keep the bench" }).click();
  await expect.poll(async () => (await reply(page)).document.angles?.length).toBe(2);
  const boxes = page.getByRole("checkbox", { name: "compare" });
  await expect(boxes).toHaveCount(2);
  await boxes.nth(0).check();
  await boxes.nth(1).check();
  await page.getByRole("button", { name: "Compare 2" }).click();
  await expect(page.getByTestId("pane")).toHaveCount(2);
  await page.getByRole("group", { name: "Angles, compared" }).getByRole("button", { name: "use it" }).nth(1).click();
  await expect(page.getByTestId("pane")).toHaveCount(0);
  const camera = (await reply(page)).document.camera;
  const place = async () => (await reply(page)).document.parts.find((p) => p.id === camera)!.rest;
  const there = await place();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect.poll(place).not.toEqual(there);
  const first = await place();

  await page.getByRole("button", { name: "Add one from the bench" }).click();
  await expect.poll(async () => (await reply(page)).document.parts.filter((p) => p.kind === "camera").length).toBe(2);
  await page.getByRole("button", { name: /^Rides along with/ }).click();
  await page.getByRole("option", { name: "Arm", exact: true }).click();
  await page.getByRole("button", { name: /^Kept aimed at/ }).click();
  await page.getByRole("option", { name: "Foot", exact: true }).click();
  const second = async () => (await reply(page)).document.parts.find((p) => p.kind === "camera" && p.id !== camera)!;
  await expect.poll(async () => (await second()).moves.map((m) => m.kind)).toEqual(["aim"]);
  expect((await second()).parent).toBe((await reply(page)).document.parts.find((p) => p.name === "Arm")!.id);
  await page.getByRole("button", { name: "use", exact: true }).click();
  await expect.poll(async () => (await reply(page)).document.camera).toBe((await second()).id);
  expect(await place()).toEqual(first); // the one before is as it was
});

test("four finishes in two formats: eight files with names of their own, at one press", async ({ page }) => {
  await page.goto(server.address);
  await dropModel(page, "bracket.glb", await bracket());
  await ready(page);
  await step(page, "5 Light");
  const picture = (await page.getByTestId("picture").boundingBox())!;
  await page.mouse.click(picture.x + picture.width * 0.45, picture.y + picture.height * 0.62); // the whole bracket
  await expect(page.getByRole("treeitem", { selected: true })).toHaveText(/Bracket/i);
  const names = ["gloss paint", "brass", "rubber", "ceramic"];
  for (const [k, preset] of names.entries()) {
    await page.getByRole("button", { name: "Keep this finish…" }).click();
    await page.getByRole("textbox", { name: "Keep what is shown as a finish" }).fill("In " + preset);
    await page.keyboard.press("Enter");
    await expect.poll(async () => (await reply(page)).document.finishes?.length).toBe(k + 1);
    await page.getByRole("button", { name: /^Presets for/ }).click();
    await page.getByRole("button", { name: preset, exact: true }).click();
    await expect.poll(async () => (await reply(page)).document.finishes![k]!.swaps.length).toBe(2);
  }
  await step(page, "7 Render");
  await type(page, "Width", "54");
  await page.getByRole("button", { name: /^Quality/ }).click();
  await page.getByRole("option", { name: /^draft/ }).click();
  await page.getByRole("button", { name: "Several finishes, formats or cameras…" }).click();
  for (const preset of names) {
    const on = page.getByRole("switch", { name: "In " + preset });
    if (!(await on.isChecked())) await on.click();
  }
  await page.getByRole("switch", { name: /^phone, story/ }).click();
  await page.getByRole("button", { name: /^8 stills of frame 0/ }).click();
  const runs = async () => (await (await page.request.get(server.address + "/api/runs")).json()) as { progress: { state: string }; frames: { file: string }[] }[];
  await expect.poll(async () => (await runs()).filter((r) => r.progress.state === "done").length, { timeout: 120_000 }).toBe(8);
  const files = (await runs()).flatMap((r) => r.frames.map((f) => f.file));
  expect(new Set(files).size).toBe(8);
  for (const preset of names) expect(files.filter((f) => f.includes("In " + preset))).toHaveLength(2);
});
