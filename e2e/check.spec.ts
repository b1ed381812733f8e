import { expect, test } from "@playwright/test";
import { execFileSync } from "node:child_process";
import { bracket } from "./models.js";
import { dropModel, reply, step } from "./pages.js";
import { binary, ready, start } from "./server.mjs";

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("serve");
});
test.afterEach(async () => server.stop());

test("broken five ways: five findings, four mended, one accepted, and it stands after a reload", async ({ page }) => {
  await page.goto(server.address);
  const id = await dropModel(page, "bracket.glb", await bracket());
  await ready(page, 0);
  const badge = page.getByLabel("Steps").getByLabel(/findings/);
  await expect(badge).toHaveCount(0);

  const { document: d } = await reply(page);
  const part = (name: string) => d.parts.find((p) => p.name === name) as unknown as { id: string; moves: { id: string }[]; light?: unknown };
  const edit = async (...edits: unknown[]) => {
    const { version } = (await reply(page)) as unknown as { version: number };
    const r = await page.request.post(`${server.address}/api/shots/${id}/edits`, { data: { version, edits } });
    expect(r.status(), await r.text()).toBe(200);
  };
  const pin = (time: number, to: number) => ({ setPin: { part: part("Arm").id, value: "turn y", time, to } });
  const rest = { position: [0.1, 0.02, 0.1], rotation: [0, 0, 0, 1], size: [1, 1, 1] };
  const turn = { kind: "turn", after: "stays", turn: { axis: [0, 1, 0], frame: "own", turns: 0.3, direction: "clockwise" } };
  await edit({ addMove: { part: part("Foot").id, move: { id: "odd", ...turn } } }); // jumps
  await edit(pin(0, 0), pin(95, 2 * Math.PI), { setPins: { pins: [{ part: part("Arm").id, value: "turn y", time: 0 }], next: "" } }); // its last frame is its first
  const ball = "00000000-0000-7000-8000-000000000001";
  await edit(
    { add: { part: { id: ball, name: "Ball", parent: "", kind: "shape", rest, pivot: [0, 0, 0], moves: [], shape: { kind: "box", size: [0.03, 0.03, 0.03] } } } },
    { addMove: { part: ball, move: { id: "eased", ...turn, turn: { ...turn.turn, turns: 1 }, pace: { kind: "sine", way: "both" } } } },
  ); // stops each lap
  await edit({ setPart: { part: d.camera, patch: { camera: { fitted: false, focal: 90 } } } }); // cut off
  await edit(...d.parts.filter((p) => p.light).map((p) => ({ flag: { parts: [p.id], hidden: true } })), { setPicture: { patch: { environment: { strength: 0 } } } }); // dark

  await step(page, "6 Check");
  const sheet = page.getByRole("complementary").last();
  for (const title of ["Foot jumps at the seam", "Arm shows its first frame twice", "Ball stops each lap", /is cut off at the/, "Nothing is lit"])
    await expect(sheet.getByRole("heading", { name: title })).toBeVisible();
  const count = async () => Number((await badge.textContent()) ?? 0);
  const open = await count();
  expect(open).toBeGreaterThanOrEqual(5);

  // Pressing a finding goes there.
  const found = (title: string | RegExp) => sheet.locator("section").filter({ has: page.getByRole("heading", { name: title }) });
  await found("Arm shows its first frame twice").getByRole("button", { name: "Show" }).click();
  await expect(page.getByRole("treeitem", { name: "Arm", exact: true, selected: true })).toBeVisible();
  await expect.poll(() => page.evaluate(() => window.perigyre!.frame())).toBe(95);

  // Shown, what is cut off is drawn where it is.
  const drawn = page.getByTestId("picture").locator("xpath=..").getByTestId("evidence").locator("path");
  await found(/is cut off at the/).getByRole("button", { name: "Show" }).click();
  await expect(drawn).toHaveCount(2);
  await page.keyboard.press("ArrowRight");
  await expect(drawn).toHaveCount(0); // on its frame alone

  const mend = async (title: string | RegExp, button: string | RegExp) => {
    await found(title).getByRole("button", { name: button }).first().click();
    await expect(sheet.getByRole("heading", { name: title })).toHaveCount(0);
  };
  await mend("Ball stops each lap", "Constant speed");
  await mend("Arm shows its first frame twice", "Let what ends on frame 95 end on 96");
  await mend("Foot jumps at the seam", /whole|turn/);
  await mend(/is cut off at the/, "Fit the camera");
  await found("Nothing is lit").getByRole("button", { name: "Accept…" }).click();
  await page.getByRole("textbox", { name: "Why it stays" }).fill("a matte for the comp, lit there");
  await page.keyboard.press("Enter");
  await expect(found("Nothing is lit").getByText("a matte for the comp, lit there")).toBeVisible();
  await expect.poll(async () => (await reply(page)).loop.closes).toBe(true);

  await page.reload();
  await step(page, "6 Check");
  await expect(found("Nothing is lit").getByText("a matte for the comp, lit there")).toBeVisible();
  await expect(sheet.getByText("blocks", { exact: true })).toHaveCount(0);

  // What a run would be refused for is found here, too.
  const choose = async (field: RegExp, option: RegExp) => {
    await page.getByRole("button", { name: field }).click();
    await page.getByRole("option", { name: option }).click();
  };
  await step(page, "7 Render");
  await choose(/^Format: PNG/, /JPEG/);
  await page.getByRole("switch", { name: "Alpha (straight)" }).click();
  await step(page, "6 Check");
  await expect(found("It cannot be rendered with these settings").getByText(/JPEG has no alpha/)).toBeVisible();
  await found("It cannot be rendered with these settings").getByRole("button", { name: "To its settings" }).click();
  await choose(/^Format: JPEG/, /PNG/);
  await step(page, "6 Check");
  await expect(page.getByRole("heading", { name: "It cannot be rendered with these settings" })).toHaveCount(0);

  // Rehearsed, small pictures of the whole shot stand in a strip; a press on one goes to its frame.
  await sheet.getByRole("button", { name: "Rehearse" }).click();
  const strip = sheet.getByLabel("Rehearsed frames");
  await expect(sheet.getByText("96 frames", { exact: true })).toBeVisible({ timeout: 80_000 });
  await expect(strip.getByRole("button")).toHaveCount(25); // every fourth, and the last of those that are black
  await strip.getByRole("button", { name: "Frame 40" }).click();
  await expect.poll(() => page.evaluate(() => window.perigyre!.frame())).toBe(40);
  await expect(sheet.getByRole("heading", { name: "Black frames" })).toBeVisible(); // nothing is lit

  // Meters of what is selected.
  await page.getByRole("treeitem", { name: "Ball", exact: true }).click();
  await expect(sheet.getByTestId("meters").getByText("90 °/s")).toBeVisible(); // once in four seconds
  await page.getByRole("button", { name: /^Meters/ }).click();
  await expect(page.getByTestId("meter lanes").getByRole("img", { name: "Turning over the shot" })).toBeVisible();

  // The command line says the same of the same project.
  await server.halt();
  const told = JSON.parse(execFileSync(binary, ["check", server.data, "--json"]).toString()) as { kind: string; blocks: boolean; accepted?: string }[];
  expect(told.filter((t) => t.blocks)).toEqual([]);
  expect(told.find((t) => t.kind === "dark")!.accepted).toBe("a matte for the comp, lit there");
});
