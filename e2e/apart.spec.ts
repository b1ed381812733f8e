import { expect, test } from "@playwright/test";
import { PNG } from "pngjs";
import { crate } from "./models.js";
import { dropModel, partOf, reply, step } from "./pages.js";
import { ready, start } from "./server.mjs";

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("serve");
});
test.afterEach(async () => server.stop());

interface Steps {
  kind: string;
  "take apart": { steps: { parts: { part: string; way: number[] }[]; by: number; wait?: number }[] };
}

test("a crate is taken apart and put together again in three presses, and nothing passes through anything", async ({ page }) => {
  await page.goto(server.address);
  await dropModel(page, "crate.glb", await crate());
  await ready(page, 0);
  await page.getByRole("treeitem", { name: "Crate", exact: true }).click();

  await step(page, "3 Move");
  await page.getByRole("button", { name: "adds a move" }).first().click();
  await page.getByRole("menuitem", { name: /^Take apart/ }).click();

  const sentence = page.getByTestId("move-take apart");
  await sentence.getByRole("button", { name: "3 steps" }).click(); // pegs, lid, ingots; the tray stays
  const rows = sentence.getByRole("listitem");
  await expect(rows).toContainText(["Peg left, Peg right", "Lid", "Ingot left, Ingot right"]);
  await expect(sentence.getByText("Tray", { exact: true })).toBeVisible();
  const plan = async () => ((await partOf(page, "Crate")).moves as unknown as Steps[]).find((m) => m.kind === "take apart")!["take apart"].steps;
  expect((await plan()).flatMap((s) => s.parts.map((p) => p.way))).toEqual(Array(5).fill([0, 1, 0]));
  const by = (await plan()).map((s) => s.by);
  expect(by[0]).toBeGreaterThan(by[1]!); // the pegs are above the lid that they left

  // Guide lines: in the picture, and in a pass of their own.
  await sentence.getByRole("button", { name: /^Guide lines/ }).click();
  await page.getByRole("option", { name: "with guide lines in the picture" }).click();
  await expect.poll(async () => ((await partOf(page, "Crate")).moves as unknown as { "take apart"?: { lines?: boolean } }[]).some((m) => m["take apart"]?.lines)).toBe(true);

  // Labels: one a step at the side of the picture, there as far as their parts have gone.
  await sentence.getByRole("button", { name: /^Labels/ }).click();
  await page.getByRole("option", { name: "with names in light letters" }).click();
  const labels = page.getByTestId("labels").locator("> g");
  await page.evaluate(() => window.perigyre!.seek(0));
  await expect(labels).toHaveCount(0);
  await page.evaluate(() => window.perigyre!.seek(48));
  await expect(labels).toHaveCount(3);

  // It plays, passes through nothing, and is together again where the loop begins anew.
  await page.keyboard.press("Space");
  await expect.poll(() => page.evaluate(() => window.perigyre!.frame())).toBeGreaterThan(5);
  await page.keyboard.press("Space");
  const sheet = page.getByRole("complementary").last();
  await step(page, "6 Check");
  await expect(sheet.getByText("Looking at the shot")).toHaveCount(0);
  await expect(sheet.getByRole("heading", { name: /passes through/ })).toHaveCount(0);
  expect((await reply(page)).loop.closes).toBe(true);

  // The lid before its pegs: the list is the designer's, and Check says what that does.
  await step(page, "3 Move");
  await sentence.getByRole("button", { name: "3 steps" }).click();
  await rows.nth(1).getByRole("button", { name: "Step 2 earlier" }).click();
  await expect(rows).toContainText(["Lid", "Peg left, Peg right", "Ingot left, Ingot right"]);
  await step(page, "6 Check");
  await expect(sheet.getByRole("heading", { name: /Lid passes through Peg|Peg (left|right) passes through Lid/ }).first()).toBeVisible();

  // Planned anew it is as it was; a step goes another way by another distance.
  await step(page, "3 Move");
  await sentence.getByRole("button", { name: "3 steps" }).click();
  await sentence.getByRole("button", { name: "Plan", exact: true }).click();
  await expect(rows).toContainText(["Peg left, Peg right", "Lid", "Ingot left, Ingot right"]);
  await rows.nth(0).getByRole("button", { name: /^Way of step 1/ }).click();
  await page.getByRole("option", { name: "to the front" }).click();
  await expect.poll(async () => (await plan())[0]!.parts[0]!.way).toEqual([0, 0, 1]);
  const distance = rows.nth(0).getByRole("textbox", { name: "Distance of step 1" });
  await distance.fill("140");
  await distance.press("Enter");
  await expect.poll(async () => (await plan())[0]!.by).toBeCloseTo(0.14, 6);

  // The distances alone are found for what was changed: the way stays.
  await sentence.getByRole("button", { name: "Distances alone" }).click();
  await expect.poll(async () => (await plan())[0]!.by).not.toBeCloseTo(0.14, 6);
  expect((await plan())[0]!.parts[0]!.way).toEqual([0, 0, 1]);

  // Its way bends upwards, after a wait; and planned with a gap in pixels all of it is anew.
  await rows.nth(0).getByRole("button", { name: "Bend the way of step 1" }).click();
  await expect(rows).toHaveCount(4);
  expect((await plan())[1]!.parts.map((p) => p.way)).toEqual(Array(2).fill([0, 1, 0]));
  const wait = rows.nth(1).getByRole("textbox", { name: "Wait of step 2" });
  await wait.fill("50");
  await wait.press("Enter");
  await expect.poll(async () => (await plan())[1]!.wait).toBe(0.5);
  await sentence.getByRole("button", { name: /^How the gap is measured/ }).click();
  await page.getByRole("option", { name: "in the picture" }).click();
  const gaps: number[] = [];
  for (const px of ["30", "60"]) {
    const gap = sentence.getByRole("textbox", { name: "Gap between parts in the picture" });
    await gap.fill(px);
    await gap.press("Enter");
    const was = JSON.stringify(await plan());
    await sentence.getByRole("button", { name: "Plan", exact: true }).click();
    await expect.poll(async () => JSON.stringify(await plan())).not.toBe(was);
    await expect(rows).toHaveCount(3);
    gaps.push((await plan())[2]!.by);
  }
  expect(gaps[1]!).toBeGreaterThan(gaps[0]!);

  // All motion of everything goes at one press, and comes back at one.
  await page.keyboard.press("Escape");
  await expect(page.getByRole("treeitem", { selected: true })).toHaveCount(0);
  const motion = async () => (await reply(page)).document.parts.reduce((n, p) => n + p.moves.length, 0);
  await sheet.getByRole("button", { name: "Remove all motion" }).click();
  await expect.poll(motion).toBe(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect.poll(motion).toBe(2);
});

test("opened up, a crate shows what is in it, cut faces and all, in the picture as it is rendered", async ({ page, request }) => {
  await page.goto(server.address);
  const id = await dropModel(page, "crate.glb", await crate());
  await ready(page, 0);
  await step(page, "2 Arrange");
  await page.getByRole("treeitem", { name: "Crate", exact: true }).click();
  await page.getByRole("button", { name: "Open up", exact: true }).click();
  await expect(page.getByRole("treeitem", { name: "Cutter of Crate", exact: true, selected: true })).toBeVisible();
  const cut = async () => (await partOf(page, "Cutter of Crate")) as unknown as { cut: { shape: string; radius: number; parts: string[] }; moves: { kind: string }[] };
  expect((await cut()).cut.shape).toBe("box");
  expect((await cut()).moves.map((m) => m.kind)).toEqual(["slide"]);

  // Its edges are rounded by hand.
  const radius = page.getByRole("textbox", { name: "Radius of its edges" });
  await radius.fill("12");
  await radius.press("Enter");
  await expect.poll(async () => (await cut()).cut.radius).toBeCloseTo(0.012, 9);

  // Slid in, half-way through the loop: the outline, and the cut faces as the renderer has them, blue while all else is black.
  const size = 400;
  const { version } = (await reply(page)) as unknown as { version: number };
  const { materials, parts } = (await reply(page)).document as unknown as { materials: { id: string }[]; parts: { id: string; kind: string; name: string }[] };
  const edits = [
    ...parts.filter((p) => ["floor", "plinth"].includes(p.kind)).map((p) => ({ setPart: { part: p.id, patch: { hidden: true } } })), // shadows are alpha, too
    { setPart: { part: parts.find((p) => p.name === "Cutter of Crate")!.id, patch: { cut: { color: [0.02, 0.1, 0.9] } } } },
    ...materials.map((m) => ({ setMaterial: { material: m.id, patch: { baseColor: [0, 0, 0, 1], metallic: 0 } } })),
  ];
  expect((await request.post(`${server.address}/api/shots/${id}/edits`, { data: { version, edits } })).ok()).toBe(true);
  const compare = async () => {
    await page.reload();
    await ready(page, 48);
    const view = await page.evaluate((n) => window.perigyre!.pixels(n, n), size);
    const settings = { width: size, height: size, from: 0, to: 95, first: 1, padding: 4, name: "{frame}", quality: "draft", denoise: true, bits: 8, backdrop: null };
    const test = await request.post(`${server.address}/api/shots/${id}/test`, { data: { settings, frame: 48 }, timeout: 120_000 });
    const rendered = PNG.sync.read(await test.body()).data;
    const mask = (of: ArrayLike<number>, is: (r: number, g: number, b: number, a: number) => boolean) =>
      Array.from({ length: size * size }, (_, i) => is(of[4 * i]!, of[4 * i + 1]!, of[4 * i + 2]!, of[4 * i + 3]!));
    const overlap = (is: Parameters<typeof mask>[1]) => {
      const [a, b] = [mask(view, is), mask(rendered, is)];
      const near = (of: boolean[], i: number) => [-size - 1, -size, -size + 1, -1, 0, 1, size - 1, size, size + 1].some((k) => of[i + k]);
      const [both, either, beside] = [0, 0, 0].map((_, n) => a.filter((on, i) => (n === 0 ? on && b[i] : n === 1 ? on || b[i] : (on && !near(b, i)) || (b[i] && !near(a, i)))).length) as [number, number, number];
      return { either, overlap: both / either, beside: beside / either };
    };
    const outline = overlap((_r, _g, _b, a) => a >= 128);
    const faces = overlap((r, g, b, a) => a >= 128 && b > 120 && b > 1.3 * Math.max(r, g));
    console.log("overlap of the outline and of cut faces:", outline.overlap.toFixed(4), faces.overlap.toFixed(4), "further off than a pixel:", outline.beside.toFixed(4), faces.beside.toFixed(4));
    expect(faces.either).toBeGreaterThan(1000);
    expect(outline.overlap).toBeGreaterThan(0.99);
    expect(faces.overlap).toBeGreaterThan(0.95); // over 0.99 in a picture three times as wide: edges are blended as they are stored here, as light there
    expect(faces.beside).toBeLessThan(0.003);
  };
  await compare();

  // Made a cylinder, it is as wide as it was, and not as its edges were round.
  await page.getByRole("treeitem", { name: "Cutter of Crate", exact: true }).click();
  await page.getByRole("button", { name: "Shape: box" }).click();
  await page.getByRole("option", { name: /^cylinder/ }).click();
  await expect.poll(async () => (await cut()).cut.shape).toBe("cylinder");
  expect((await cut()).cut.radius).toBeGreaterThan(0.02);

  // In the shape of another part, which is hidden then: a ring, which rays go into twice.
  const edit = async (...edits: unknown[]) => {
    const now = (await reply(page)) as unknown as { version: number };
    expect((await request.post(`${server.address}/api/shots/${id}/edits`, { data: { version: now.version, edits } })).ok()).toBe(true);
  };
  await edit({ addShape: { kind: "torus", id: "ring" } });
  await edit(
    { setPart: { part: "ring", patch: { hidden: true, shape: { radius: 0.06, thick: 0.02 }, rest: { position: [0.03, 0.11, 0.03], rotation: [0.5, 0, 0, 0.866] } } } },
    { setPart: { part: (await partOf(page, "Cutter of Crate")).id, patch: { cut: { shape: "part", of: "ring" } } } },
  );
  await compare();
});
