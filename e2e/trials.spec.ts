import { expect, test, type Page } from "@playwright/test";
import { cart, crane } from "./models.js";
import { add, dropModel, empty, partOf, pick, reply, step, type } from "./pages.js";
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
