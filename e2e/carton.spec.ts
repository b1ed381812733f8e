import { expect, test } from "@playwright/test";
import { add, empty, made, partOf, pick, reply, step, type } from "./pages.js";
import { ready, start } from "./server.mjs";

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("serve");
});
test.afterEach(async () => server.stop());

interface UnfoldMove {
  kind: string;
  span: { from: number; to: number } | null;
  unfold: { open: number; panels: { part: string; angle: number; from: number; to: number; pace: { kind: string; way?: string } }[] };
}

test("a box topples, then unfolds along its own edges, the last panel with a long tail", async ({ page }) => {
  await empty(page, server.address);
  await add(page, "box");
  await step(page, "3 Move");
  await page.getByRole("button", { name: "adds a move" }).first().click();
  await page.getByRole("menuitem", { name: /^Topple/ }).click();
  await pick(page, /^Span: /, "from a frame to a frame"); // the first half of the loop
  await page.getByRole("button", { name: "adds a move" }).first().click();
  await page.getByRole("menuitem", { name: /^Unfold along its edges/ }).click();

  const words = page.getByTestId("move-unfold");
  await words.getByRole("button", { name: "5 hinges" }).click();
  const rows = words.getByRole("listitem");
  await expect(rows).toHaveCount(5);
  const unfold = async () => ((await partOf(page, "Box")).moves as unknown as UnfoldMove[]).find((m) => m.kind === "unfold")!;
  const panels = async () => (await unfold()).unfold.panels;
  expect((await panels()).map((p) => Math.abs(p.angle))).toEqual(Array(5).fill(expect.closeTo(Math.PI / 2, 6)));
  const last = (await panels())[4]!;
  expect(last.to - last.from).toBeGreaterThan(0.5); // the others take 0.3
  expect(last.pace).toMatchObject({ kind: "power", way: "out" });
  expect((await partOf(page, "Box")).kind).toBe("group");

  // It opens once it has toppled, and stays open; panels that overlap less and open further are typed.
  await words.getByRole("button", { name: /^Span: / }).click();
  await page.getByRole("option", { name: "from a frame to a frame" }).click();
  await expect.poll(async () => (await unfold()).span).not.toBeNull();
  const field = async (name: string, value: string) => {
    const f = words.getByLabel(name, { exact: true });
    await f.fill(value);
    await f.press("Enter");
  };
  await field("To", "96");
  await field("From", "48");
  await expect.poll(async () => (await unfold()).span).toEqual({ from: 48, to: 96 });
  await field("Panel 5 begins", "40");
  await expect.poll(async () => (await panels())[4]!.from).toBeCloseTo(0.4, 6);
  await field("Angle of panel 1", "120");
  await expect.poll(async () => Math.abs((await panels())[0]!.angle)).toBeCloseTo((2 * Math.PI) / 3, 6);
  await rows.nth(1).getByRole("button", { name: "Panel 2 earlier" }).click(); // it takes the other's time
  await expect.poll(async () => (await panels()).map((p) => p.from)[0]).toBe(0);

  // The program's own hinges are found anew.
  await words.getByRole("button", { name: "Find the hinges anew" }).click();
  await expect.poll(async () => Math.abs((await panels())[0]!.angle)).toBeCloseTo(Math.PI / 2, 6);

  await page.keyboard.press("Space");
  await expect.poll(() => page.evaluate(() => window.perigyre!.frame())).toBeGreaterThan(5);
  await page.keyboard.press("Space");
});

test("five hundred copies burst and come back, each its own way; a row of six has every second one turned", async ({ page }) => {
  await empty(page, server.address);
  await add(page, "plane"); // of which five hundred are drawn soon
  await step(page, "2 Arrange");
  await made(page, () => page.getByRole("button", { name: "Copies", exact: true }).click());
  await pick(page, /^Laid out in a/, "row");
  await type(page, "Copies", "6");
  await type(page, "Turn each k-th", "2");
  await type(page, "by", "90");
  interface Copied {
    copies: { count: number[]; every: number; flip: number };
    moves: { kind: string }[];
  }
  const copies = async () => (await reply(page)).document.parts.find((p) => p.kind === "copies") as unknown as Copied;
  await expect.poll(async () => [(await copies()).copies.count[0], (await copies()).copies.every]).toEqual([6, 2]);
  await expect.poll(async () => (await copies()).copies.flip?.toFixed(6)).toBe((Math.PI / 2).toFixed(6));

  await pick(page, /^Laid out in a/, "scattered");
  await type(page, "Copies", "500");
  await expect(page.getByText(/^\d+ of 500 have room/)).toBeVisible();
  await type(page, "At least apart", "0");
  await expect(page.getByText("of 500 have room")).toHaveCount(0);
  await expect.poll(async () => (await copies()).copies.count[0]).toBe(500);
  await step(page, "3 Move");
  await page.getByRole("button", { name: "adds a move" }).first().click();
  await page.getByRole("menuitem", { name: /^Burst/ }).click();
  await expect.poll(async () => (await copies()).moves.map((m) => m.kind)).toEqual(["burst"]);
  await expect(page.getByTestId("move-burst").getByText("closes: it goes there and back")).toBeVisible();

  // Each its own way: how 500 places differ between the beginning and the middle of the loop.
  await ready(page, 48);
  const at = new URL(page.url());
  const data = await (await page.request.get(`${at.origin}/api${at.pathname}/bake`)).body();
  const words = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const [frames, parts, animated] = [4, 8, 12].map((o) => words.getUint32(o, true)) as [number, number, number];
  let next = 16 + 4 * animated + 64 * parts + 64 * animated * frames;
  expect(words.getUint32(next, true)).toBe(1);
  next += 4;
  const [n, sets] = [words.getUint32(next + 8, true), words.getUint32(next + 12, true)];
  expect([n, sets]).toEqual([500, frames]);
  const place = (frame: number, k: number) => [12, 13, 14].map((c) => words.getFloat32(next + 16 + 64 * (n * frame + k) + 4 * c, true));
  const ways = new Set<string>();
  for (let k = 0; k < n; k++) {
    const [a, b] = [place(0, k), place(48, k)];
    ways.add(b.map((v, c) => (v - a[c]!).toFixed(5)).join());
  }
  expect(ways.size).toBeGreaterThan(490);
});
