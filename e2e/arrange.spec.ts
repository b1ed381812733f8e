import { expect, test, type APIRequestContext, type Page } from "@playwright/test";
import { washer } from "./models.js";
import { ready, start } from "./server.mjs";

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("serve");
});
test.afterEach(async () => server.stop());

async function bring(page: Page, request: APIRequestContext, name: string, buffer: Buffer): Promise<string> {
  const file = { name, mimeType: "application/octet-stream", buffer };
  const made = await (await request.post(server.address + "/api/imports", { multipart: { file } })).json();
  await page.goto(`${server.address}/shots/${made.shot}?plain`);
  await ready(page, 0);
  return `${server.address}/api/shots/${made.shot}`;
}

interface Part {
  id: string;
  name: string;
  parent: string;
  pivot: number[];
  rest: { position: number[]; rotation: number[]; size: number[] };
}
const parts = async (request: APIRequestContext, api: string): Promise<Part[]> => (await (await request.get(api)).json()).document.parts;
const step = (page: Page, name: string) => page.getByLabel("Steps").getByRole("button", { name }).click();

test("a group gets its pivot on a hole's axis, handles move it, and a ring of copies is made", async ({ page, request }) => {
  const api = await bring(page, request, "washer.obj", washer());
  await step(page, "2 Arrange");
  await page.keyboard.press("`"); // the bench large
  await page.getByRole("treeitem", { name: "Washer", exact: true }).click();
  await page.getByRole("button", { name: "Group…" }).click();
  await page.getByRole("textbox", { name: "Name of the group" }).fill("Ring pair");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("treeitem", { name: "Ring pair" })).toHaveAttribute("aria-selected", "true");

  await test.step("the pivot goes to the middle of the bore", async () => {
    await page.getByRole("button", { name: "Hole…" }).click();
    const group = (await parts(request, api)).find((p) => p.name === "Ring pair")!;
    expect(group.pivot).toEqual([0, 0, 0]);
    // The far wall of the bore, 14 mm from the axis, seen over the near rim.
    const plinth = (await (await request.get(api)).json()).document.parts.find((p: { kind: string }) => p.kind === "plinth").plinth;
    const wall = [-0.0072, plinth.height + 0.0085, -0.012];
    const at = await page.evaluate((w) => window.perigyre!.onBench(w[0]!, w[1]!, w[2]!), wall);
    await page.mouse.click(at[0]!, at[1]!);
    await expect(page.getByRole("button", { name: "Hole…" })).toBeVisible();
    await expect
      .poll(async () => (await parts(request, api)).find((p) => p.name === "Ring pair")!.pivot.map((v) => Number(v.toFixed(3)) + 0))
      .toEqual([0, 0, 6]); // in the file's millimetres, z upright: on the axis, half-way up
  });

  await test.step("dragging a pin moves it along the axis alone, and undo brings it back", async () => {
    const pin = page.getByTestId("drag-y").locator("circle");
    const box = (await pin.boundingBox())!;
    const before = (await parts(request, api)).find((p) => p.name === "Ring pair")!.rest.position;
    await page.mouse.move(box.x + 5, box.y + 5);
    await page.mouse.down();
    await page.mouse.move(box.x + 5, box.y - 35, { steps: 5 });
    await page.mouse.up();
    const moved = async () => (await parts(request, api)).find((p) => p.name === "Ring pair")!.rest.position.map((v, i) => v - before[i]!);
    await expect.poll(async () => (await moved())[2]!).toBeGreaterThan(1); // z of the file is up
    expect(Math.abs((await moved())[0]!)).toBeLessThan(1e-6);
    await page.keyboard.press("Control+z");
    await expect.poll(async () => Math.abs((await moved())[2]!)).toBeLessThan(1e-9);
  });

  await test.step("a ring of eight linked copies", async () => {
    await page.getByRole("button", { name: "Copies", exact: true }).click();
    await expect(page.getByRole("treeitem", { name: "Ring pair, copies" })).toContainText("×8");
    const covered = () =>
      page.evaluate(() => window.perigyre!.pixels(64, 64).filter((v, i) => i % 4 === 3 && v > 0).length);
    await expect.poll(covered).toBeGreaterThan(64 * 64 * 0.15); // all of them, in a picture that is fitted to them
    await expect(page.getByTestId("measures")).toContainText("8.0 %"); // the camera was fitted to all of them
    // Two fields one right after the other: the second does not take the first back.
    await page.getByLabel("Copies", { exact: true }).last().fill("6");
    await page.keyboard.press("Enter");
    await page.getByLabel("Radius", { exact: true }).fill("123");
    await page.keyboard.press("Enter");
    const copies = async () => {
      const all = await (await request.get(api)).json();
      const c = all.document.parts.find((p: { kind: string }) => p.kind === "copies").copies;
      return [c.count[0], c.radius];
    };
    await expect.poll(copies).toEqual([6, 0.123]);
  });

  await test.step("several are aligned, renamed by a pattern and locked", async () => {
    await page.getByRole("treeitem", { name: "Ring pair", exact: true }).click();
    await page.getByRole("treeitem", { name: "Plinth" }).click({ modifiers: ["Control"] });
    await expect(page.getByText("2 of 10 selected")).toBeVisible();
    await page.getByRole("button", { name: "Rename…" }).click();
    await page.getByRole("textbox").last().fill("{name} no. {n}");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("treeitem", { name: "Plinth no. 2" })).toBeVisible();
    await page.getByRole("switch", { name: "Locked" }).click();
    await page.getByRole("button", { name: "Stand", exact: true }).click();
    await expect(page.getByText(/is locked; unlock it to move it/)).toBeVisible();
  });
});

test("what is typed into a field replaces its value, though another came meanwhile", async ({ page, request }) => {
  const api = await bring(page, request, "tube.obj", Buffer.from(washer(30, 14, 120).toString()));
  await step(page, "1 Bring in");
  const height = page.getByLabel("Height", { exact: true });
  await height.focus();
  const was = await height.inputValue();
  const shot = (await (await request.get(api)).json()) as { version: number; document: { sources: { root: string }[] } };
  const change = { setReading: { root: shot.document.sources[0]!.root, unit: "cm" } };
  expect((await request.post(`${api}/edits`, { data: { version: shot.version, edits: [change] } })).ok()).toBe(true);
  await expect(height).not.toHaveValue(was);
  await page.keyboard.type("12 cm");
  await page.keyboard.press("Enter");
  await expect(height).toHaveValue("120");
});

test("a model a hundred times too large, lying down and with a stray is put right in a minute", async ({ page, request }) => {
  // Made with y upright but saved as if z were: it lies on its side, in a unit of its own.
  const text = washer(30, 14, 120).toString().replace(/^v (\S+) (\S+) (\S+)$/gm, (_, x, y, z) => `v ${x * 100} ${z * 100} ${y * 100}`);
  // ... with a small stray far off.
  const [n, far] = [text.match(/^v /gm)!.length, 500_000];
  const stray = `\no Speck\nv ${far} 0 0\nv ${far + 99} 0 0\nv ${far} 99 0\nv ${far} 0 99\nf ${n + 1} ${n + 2} ${n + 3}\nf ${n + 1} ${n + 2} ${n + 4}\n`;
  const api = await bring(page, request, "tube.obj", Buffer.from(text + stray));
  await step(page, "1 Bring in");
  await expect(page.getByText(/guessed: it stands on y = 0/)).toBeVisible();
  await test.step("the stray is listed, and left out", async () => {
    await expect(page.getByText(/times the model's size away from it/)).toBeVisible();
    await page.getByRole("button", { name: "Leave out 1" }).click();
    await expect(page.getByText("Nothing tiny, far away, flat, empty or twice in one place.")).toBeVisible();
    await expect(page.getByRole("treeitem", { name: "Speck" })).toBeHidden();
  });
  await page.getByRole("button", { name: /^Upright axis/ }).click();
  await page.getByRole("option", { name: "z is upright" }).click();
  await expect(page.getByText("6000 × 6000 × 12000 mm").or(page.getByText("6 × 6 × 12 m"))).toBeVisible();
  await page.getByRole("button", { name: /^Upright axis/ }).click();
  await page.getByRole("option", { name: "y is upright" }).click();
  const height = page.getByLabel("Height", { exact: true });
  await height.fill("12 cm");
  await height.press("Enter");
  await expect(page.getByText("60 × 120 × 60 mm")).toBeVisible();
  await expect(page.getByText(/beside a hand/)).toBeVisible();
  const all = (await (await request.get(api)).json()) as { margins: { tightest: number }; wobble: number };
  expect(all.margins.tightest).toBeCloseTo(8, 1);
  expect(all.wobble).toBeLessThan(1e-9);
});

test("a mark is made from a drawing with a hole, and its edge is changed with its moves kept", async ({ page, request }) => {
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60">
    <path id="frame" fill="#123456" d="M0 0H60V60H0z M15 15V45H45V15z"/><circle id="dot" cx="30" cy="30" r="8" fill="#fa0"/></svg>`;
  const api = await bring(page, request, "mark.svg", Buffer.from(svg));
  const triangles = async () => {
    const shot = await (await request.get(api)).json();
    const mesh = shot.document.parts.find((p: { name: string }) => p.name === "frame").mesh;
    const glb = await (await request.get(`${server.address}/api/assets/${mesh.asset}.glb`)).body();
    return { asset: mesh.asset as string, bytes: glb.length };
  };
  const sharp = await triangles();
  await page.getByRole("treeitem", { name: "dot" }).click();
  await page.keyboard.press("m");
  await page.getByRole("menuitem", { name: /^Float/ }).click();
  await expect(page.getByText("closes: twice in the loop")).toBeVisible();
  // Through the frame's hole and round the dot the backdrop is seen: the hole is a hole.
  const pixels = await page.evaluate(() => window.perigyre!.pixels(96, 96));
  expect(pixels.filter((v, i) => i % 4 === 3 && v > 0).length / (96 * 96)).toBeLessThan(0.7);

  await page.getByRole("treeitem", { name: "mark", exact: true }).click();
  await step(page, "2 Arrange");
  await page.getByRole("button", { name: "Front edge: chamfer" }).click();
  await page.getByRole("option", { name: "round" }).click();
  await page.getByLabel("Segments").fill("6");
  await page.keyboard.press("Enter");
  await expect.poll(async () => (await triangles()).asset).not.toBe(sharp.asset);
  await expect.poll(async () => (await triangles()).bytes).toBeGreaterThan(sharp.bytes);
  await step(page, "3 Move");
  await page.getByRole("treeitem", { name: "dot" }).click();
  await expect(page.getByText("closes: twice in the loop")).toBeVisible(); // the move is still there
});
