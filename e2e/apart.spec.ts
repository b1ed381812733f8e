import { expect, test } from "@playwright/test";
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
  "take apart": { steps: { parts: { part: string; way: number[] }[]; by: number }[] };
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
});
