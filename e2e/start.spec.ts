import { expect, test, type Page } from "@playwright/test";
import { bracket } from "./models.js";
import { dropModel } from "./pages.js";
import { ready, start } from "./server.mjs";

// As people start: an empty project, the layout that comes first, WebGL as it comes, and the mouse.

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("serve");
});
test.afterEach(async () => server.stop());

/** Where the top of the bracket's arm is seen in the bench, in pixels of the page. */
const arm = (page: Page) => page.evaluate(() => window.perigyre!.onBench(0, 0.05, 0));

const moved = (a: number[], b: number[]) => Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!);

test("bench and picture take the mouse in the layout that comes first", async ({ page, request }) => {
  await page.goto(server.address);
  const id = await dropModel(page, "bracket.glb", await bracket());
  await ready(page);
  await page.keyboard.press("Home");
  const bench = (await page.getByTestId("bench").boundingBox())!;
  const middle = [bench.x + bench.width / 2, bench.y + bench.height / 2] as const;
  const corner = [bench.x + 4, bench.y + 4] as const;
  const selected = page.getByRole("treeitem", { selected: true });

  const drag = async (button: "left" | "right", by: [number, number]) => {
    await page.mouse.move(...middle);
    await page.mouse.down({ button });
    await page.mouse.move(middle[0] + by[0], middle[1] + by[1], { steps: 4 });
    await page.mouse.up({ button });
  };

  await test.step("orbit, pan and zoom", async () => {
    let was = await arm(page);
    await drag("left", [60, 10]);
    await expect.poll(async () => moved(was, await arm(page))).toBeGreaterThan(1);
    was = await arm(page);
    await drag("right", [30, 0]);
    await expect.poll(async () => (await arm(page))[0]! - was[0]!).toBeGreaterThan(20);
    await drag("right", [-30, 0]);
    was = await arm(page);
    const away = moved(was, [...middle]);
    await page.mouse.move(...middle);
    await page.mouse.wheel(0, -400);
    await expect.poll(async () => moved(await arm(page), [...middle])).not.toBeCloseTo(away, 0);
    await page.mouse.wheel(0, 400);
  });

  await test.step("both views are seen the other way round too", async () => {
    const coloured = async (id: string) => {
      const png = await page.getByTestId(id).screenshot();
      return page.evaluate(async (data) => {
        const img = new Image();
        img.src = "data:image/png;base64," + data;
        await img.decode();
        const c = new OffscreenCanvas(img.width, img.height).getContext("2d")!;
        c.drawImage(img, 0, 0);
        const p = c.getImageData(0, 0, img.width, img.height).data;
        let n = 0;
        for (let i = 0; i < p.length; i += 4) if (Math.max(p[i]!, p[i + 1]!, p[i + 2]!) - Math.min(p[i]!, p[i + 1]!, p[i + 2]!) > 40) n++;
        return n / (p.length / 4);
      }, png.toString("base64"));
    };
    for (const id of ["picture", "bench"]) await expect.poll(() => coloured(id)).toBeGreaterThan(0.01); // the bracket is red and blue
    await page.keyboard.press("`");
    for (const id of ["picture", "bench"]) await expect.poll(() => coloured(id)).toBeGreaterThan(0.01);
    await page.keyboard.press("`");
  });

  await test.step("a click selects, one on nothing and Escape let go", async () => {
    await expect(selected).toHaveCount(0);
    await page.mouse.click(...middle);
    await expect(selected).toHaveCount(1);
    await page.mouse.click(...corner);
    await expect(selected).toHaveCount(0);
    await page.mouse.click(...middle);
    await expect(selected).toHaveCount(1);
    await page.keyboard.press("Escape");
    await expect(selected).toHaveCount(0);
  });

  await test.step("a frame dragged over all of it selects what is in it", async () => {
    await page.keyboard.down("Alt");
    await page.mouse.move(...corner);
    await page.mouse.down();
    await page.mouse.move(bench.x + bench.width - 4, bench.y + bench.height - 4, { steps: 4 });
    await page.mouse.up();
    await page.keyboard.up("Alt");
    await expect(selected).not.toHaveCount(0);
    await page.mouse.click(...corner);
    await expect(selected).toHaveCount(0);
  });

  await test.step("a pivot is picked in the bench, and Escape leaves the picking", async () => {
    await page.getByLabel("Steps").getByRole("button", { name: "2 Arrange" }).click();
    await page.getByRole("treeitem", { name: "Bracket", exact: true }).click();
    const pivot = async () => {
      const all = await (await request.get(`${server.address}/api/shots/${id}`)).json();
      return all.document.parts.find((p: { name: string }) => p.name === "Bracket").pivot as number[];
    };
    const before = await pivot();
    await page.getByRole("button", { name: "Pick…", exact: true }).click();
    await page.keyboard.press("Escape");
    await page.mouse.click(...middle); // selects, and moves no pivot
    expect(await pivot()).toEqual(before);
    await page.getByRole("treeitem", { name: "Bracket", exact: true }).click();
    await page.getByRole("button", { name: "Pick…", exact: true }).click();
    await page.mouse.click(...middle);
    await expect.poll(pivot).not.toEqual(before);
  });

  await test.step("a proof is asked for with the mouse", async () => {
    await page.getByRole("button", { name: "proof", exact: true }).click();
    await expect(page.getByTestId("proof")).toHaveAttribute("data-samples", /[1-9]/, { timeout: 120_000 });
    await page.getByRole("button", { name: "proof", exact: true }).click();
    await expect(page.getByTestId("proof")).toBeHidden();
  });
});

test("an empty program offers the demo", async ({ page }) => {
  await page.goto(server.address);
  const [made] = await Promise.all([
    page.waitForResponse((r) => r.url().endsWith("/api/demo")),
    page.getByRole("button", { name: "the demo" }).click(),
  ]);
  expect(made.status()).toBe(200);
  await page.waitForURL(/\/shots\//);
  await expect(page.getByRole("treeitem", { name: "Lantern", exact: true })).toBeVisible();
  await expect(page.getByText("Brindlewick No. 3")).toBeVisible();
});

test("a model that was just brought in stays open where the list of projects does not come", async ({ page }) => {
  await page.goto(server.address);
  await expect(page.getByRole("button", { name: "the demo" })).toBeVisible(); // the list has come once
  let refused = 0;
  await page.route("**/api/state", (r) => {
    refused++;
    return r.abort();
  });
  await dropModel(page, "bracket.glb", await bracket());
  await ready(page);
  await expect.poll(() => refused).toBeGreaterThan(1); // it was asked for again, and given up
  await expect(page).toHaveURL(/\/shots\//);
  await expect(page.getByRole("treeitem").first()).toBeVisible();
  await page.unroute("**/api/state");
  await page.reload();
  await expect(page.getByRole("treeitem").first()).toBeVisible();
});

test("a model that is dropped before the list of projects has come opens and stays open", async ({ page }) => {
  // Lists that were made before the model was brought in come after it.
  let made = 0;
  let bring = () => {};
  const brought = new Promise<void>((done) => (bring = done));
  await page.route("**/api/state", async (r) => {
    const response = await r.fetch();
    made++;
    await brought;
    await r.fulfill({ response });
  });
  await page.goto(server.address);
  await expect.poll(() => made).toBeGreaterThan(0);
  page.on("requestfinished", (r) => {
    if (r.url().endsWith("/api/imports")) setTimeout(bring, 300); // once what the page does with its answer is under way
  });
  await dropModel(page, "bracket.glb", await bracket());
  await ready(page);
  await expect(page).toHaveURL(/\/shots\//);
  await expect(page.getByRole("treeitem").first()).toBeVisible();
});

test("a machine that has no network works on: the server is on it", async ({ page }) => {
  await page.goto(server.address);
  await expect(page.getByRole("button", { name: "the demo" })).toBeVisible();
  await page.evaluate(() => dispatchEvent(new Event("offline"))); // as the browser tells it
  await dropModel(page, "bracket.glb", await bracket());
  await ready(page);
  await expect(page.getByRole("treeitem").first()).toBeVisible();
});

test("a model joins the project that was begun without one", async ({ page, request }) => {
  await page.goto(server.address);
  await page.getByRole("button", { name: "an empty shot" }).click();
  await page.waitForURL(/\/shots\//);
  await page.getByLabel("Steps").getByRole("button", { name: "1 Bring in" }).click();
  const [chooser] = await Promise.all([page.waitForEvent("filechooser"), page.getByRole("button", { name: "Choose a model…" }).click()]);
  await chooser.setFiles({ name: "bracket.glb", mimeType: "model/gltf-binary", buffer: await bracket() });
  await expect(page.getByRole("treeitem", { name: "Arm" })).toBeVisible();
  const { projects } = await (await request.get(server.address + "/api/state")).json();
  expect(projects.map((p: { shots: unknown[] }) => p.shots.length)).toEqual([2]);

  // It is what opens next time, and not the empty one beside it.
  const open = page.url();
  await page.goto(server.address);
  await expect(page.getByRole("treeitem", { name: "Arm" })).toBeVisible();
  expect(page.url()).toBe(open);

  // So does one that the Add menu asks for.
  await page.getByRole("button", { name: "Add a part" }).click();
  const [again] = await Promise.all([page.waitForEvent("filechooser"), page.getByRole("menuitem", { name: "a drawing or a model, as a shot of this project…" }).click()]);
  await again.setFiles({ name: "third.glb", mimeType: "model/gltf-binary", buffer: await bracket() });
  await expect.poll(async () => (await (await request.get(server.address + "/api/state")).json()).projects[0].shots.length).toBe(3);

  // With a model in view another one is a project of its own.
  await dropModel(page, "second.glb", await bracket());
  await expect.poll(async () => (await (await request.get(server.address + "/api/state")).json()).projects.length).toBe(2);
});
