import { expect, test, type Page } from "@playwright/test";
import { unzipSync } from "fflate";
import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import { PNG } from "pngjs";
import { bracket } from "./models.js";
import { drop, dropModel } from "./pages.js";
import { ready, start } from "./server.mjs";

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("serve");
});
test.afterEach(async () => server.stop());

/** The picture's pixels on a frame. */
async function pixels(page: Page, frame: number): Promise<number[]> {
  return page.evaluate((f) => {
    window.perigyre!.seek(f);
    return window.perigyre!.pixels(64, 64);
  }, frame);
}

const differing = (a: number[], b: number[]) => a.filter((v, i) => Math.abs(v - b[i]!) > 8).length / a.length;

test("a model file becomes a looping turntable with alpha", async ({ page }) => {
  const errors: string[] = [];
  page.on("pageerror", (e) => errors.push(e.message));
  page.on("console", (m) => m.type() === "error" && !/status of 4(09|22)/.test(m.text()) && errors.push(m.text()));

  await test.step("an empty start says what to do", async () => {
    await page.goto(server.address + "/?plain");
    await expect(page.getByRole("heading", { name: "Bring in a model" })).toBeVisible();
    await expect(page.getByRole("button", { name: "Choose a model…" })).toBeVisible();
  });


  await test.step("a file that is no model is refused with the reason", async () => {
    await drop(page, "notes.txt", Buffer.from("hello"));
    await expect(page.getByText("notes.txt is not a model that can be brought in")).toBeVisible();
    await page.getByRole("button", { name: "Close" }).click();
  });

  await test.step("a dropped model is staged and reported", async () => {
    await dropModel(page, "bracket.glb", await bracket());
    await expect(page.getByRole("treeitem", { name: "Arm" })).toBeVisible();
    await expect(page.getByLabel("Bring in", { exact: true }).getByText("bracket.glb")).toBeVisible();
    await expect(page.getByText("120 × 120 × 50 mm")).toBeVisible();
    await expect(page.getByTestId("measures")).toContainText("8.0 %");
  });

  await test.step("Space plays it, and a lap brings the same pixels back", async () => {
    await ready(page);
    await page.keyboard.press("Space");
    await page.waitForFunction(() => window.perigyre!.frame() > 0);
    await page.evaluate(() => window.perigyre!.play(0));
    const first = await pixels(page, 0);
    expect(differing(first, await pixels(page, 24))).toBeGreaterThan(0.02);
    expect(differing(first, await pixels(page, 96))).toBe(0); // frame 96 is frame 0
    expect(first.filter((v, i) => i % 4 === 3 && v === 0).length).toBeGreaterThan(64 * 16); // transparent round it
  });

  await test.step("changing a word of the sentence changes the shot at once", async () => {
    await page.keyboard.press("3");
    const before = await pixels(page, 12);
    await page.getByRole("button", { name: "Direction: clockwise" }).click();
    await page.getByRole("option", { name: "counterclockwise" }).click();
    await expect(page.getByRole("button", { name: "Direction: counterclockwise" })).toBeVisible();
    await expect.poll(async () => differing(before, await pixels(page, 84))).toBe(0); // as far the other way
    await expect(page.getByText("closes: one lap in 96 frames")).toBeVisible();
  });

  await test.step("number fields think, and refuse nonsense with the reason", async () => {
    const frames = page.getByLabel("Length of the shot", { exact: true });
    await frames.fill("48+16*1,5");
    await frames.press("Enter");
    await expect(page.getByText("closes: one lap in 72 frames")).toBeVisible();
    await frames.fill("2s");
    await frames.press("Enter");
    await expect(page.getByText("closes: one lap in 48 frames")).toBeVisible();
    await frames.press("ArrowUp");
    await expect(page.getByText("closes: one lap in 49 frames")).toBeVisible();
    await frames.fill("a dozen");
    await frames.press("Enter");
    await expect(page.getByRole("alert")).toContainText("is no unit here");
    await page.keyboard.press("Tab");
    await expect(frames).toHaveValue("49");
  });

  await test.step("undo goes through a reload, and redo too", async () => {
    await page.getByRole("button", { name: "Undo" }).click();
    await expect(page.getByText("closes: one lap in 48 frames")).toBeVisible();
    await page.reload();
    await ready(page, 0);
    await page.keyboard.press("Control+z");
    await expect(page.getByText("closes: one lap in 72 frames")).toBeVisible();
    await page.keyboard.press("Control+z");
    await page.keyboard.press("Control+z");
    await expect(page.getByRole("button", { name: "Direction: clockwise" })).toBeVisible();
    await page.keyboard.press("Control+Shift+z");
    await expect(page.getByRole("button", { name: "Direction: counterclockwise" })).toBeVisible();
  });

  await test.step("a float that does not fit the loop is found and mended", async () => {
    await page.getByRole("treeitem", { name: "Arm" }).click();
    await page.keyboard.press("m");
    await page.getByRole("menuitem", { name: /^Float/ }).click();
    await expect(page.getByText("closes: twice in the loop")).toBeVisible();
    const period = page.getByLabel("Period", { exact: true });
    await period.fill("36");
    await period.press("Enter");
    await expect(page.getByText(/does not close: 96 \/ 36/)).toBeVisible();
    await expect(page.getByRole("button", { name: "7 Render" })).toBeVisible();
    await page.getByRole("button", { name: "Every 32 f" }).click();
    await expect(page.getByText("closes: 3 times in the loop")).toBeVisible();
  });

  await test.step("twelve frames are rendered, played and handed over", async () => {
    await page.getByRole("button", { name: "7 Render" }).click();
    const set = async (label: string, value: string) => {
      await page.getByLabel(label, { exact: true }).fill(value);
      await page.getByLabel(label, { exact: true }).press("Enter");
    };
    await set("Width", "48");
    await set("To frame", "96");
    await expect(page.getByRole("alert")).toContainText("at most 95");
    await set("To frame", "11");
    await set("First number", "101");
    await page.getByRole("button", { name: "Quality: proof" }).click();
    await page.getByRole("option", { name: "draft" }).click();
    await expect(page.getByTestId("names")).toContainText("bracket.0101.png");
    await expect(page.getByTestId("names")).toContainText("bracket.0112.png");
    await page.getByRole("button", { name: "Render a test frame" }).click();
    await expect(page.getByTestId("test-frame")).toBeVisible();
    await expect(page.getByText(/^about .* for 12 frames$/)).toBeVisible();
    await page.getByRole("button", { name: "Render", exact: true }).click();
    await expect(page.getByTestId("run-state")).toContainText("done, 12 of 12 frames");

    const picture = page.getByTestId("player-picture");
    await expect(picture).toHaveAttribute("data-frame", /\d/);
    const seen = await picture.getAttribute("data-frame");
    await expect(picture).not.toHaveAttribute("data-frame", seen!); // it plays
    await page.getByTestId("player").getByRole("button", { name: "Stop" }).click();
    await page.getByRole("button", { name: "Channels: colour" }).click();
    await page.getByRole("option", { name: "alpha alone" }).click();
    const grey = () =>
      picture.evaluate((c: HTMLCanvasElement) => {
        const d = c.getContext("2d")!.getImageData(0, 0, c.width, c.height).data;
        return d.every((v, i) => (i % 4 === 3 ? v === 255 : v === d[i - (i % 4)]));
      });
    await expect.poll(grey).toBe(true);

    const download = page.waitForEvent("download");
    await page.getByRole("link", { name: "Download zip" }).click();
    const files = unzipSync(readFileSync((await (await download).path())!));
    const names = Object.keys(files).sort();
    expect(names).toEqual([...Array.from({ length: 12 }, (_, i) => `bracket.0${101 + i}.png`), "run.json"]);
    const record = JSON.parse(Buffer.from(files["run.json"]!).toString());
    expect(record).toMatchObject({ complete: true, alpha: "straight", rate: { num: 24, den: 1 }, length: 96 });
    for (const [i, f] of record.frames.entries()) {
      const data = files[f.file]!;
      expect(createHash("sha256").update(data).digest("hex")).toBe(f.sha256);
      const png = PNG.sync.read(Buffer.from(data)); // another program's reader
      expect([png.width, png.height]).toEqual([48, 48]);
      const alphas = new Set(png.data.filter((_, k) => k % 4 === 3));
      expect(alphas.has(0) && alphas.has(255) && alphas.size > 10, `frame ${i} has soft edges`).toBe(true);
    }
  });
  expect(errors).toEqual([]);
});

test("a change made in one window shows in the other", async ({ page, context, request }) => {
  const file = { name: "bracket.glb", mimeType: "model/gltf-binary", buffer: await bracket() };
  const made = await (await request.post(server.address + "/api/imports", { multipart: { file } })).json();
  await page.goto(`${server.address}/shots/${made.shot}?plain`);
  await ready(page, 0);
  const other = await context.newPage();
  await other.goto(page.url());
  await ready(other, 0);
  await page.getByRole("treeitem", { name: "Foot" }).click();
  await page.getByLabel("Steps", { exact: true }).getByRole("button", { name: "2 Arrange" }).click();
  await page.getByLabel("Name", { exact: true }).fill("Sole");
  await page.keyboard.press("Enter");
  await expect(other.getByRole("treeitem", { name: "Sole" })).toBeVisible();

  await test.step("an answer that comes late takes nothing newer away", async () => {
    const api = `${server.address}/api/shots/${made.shot}`;
    let release = () => {};
    const gate = new Promise<void>((r) => (release = r));
    let asked = false;
    await page.route(api, async (route) => {
      const response = await route.fetch();
      asked = true;
      await gate;
      await route.fulfill({ response });
    });
    // The first window wants to know what the other changed, unless an answer that was under way has told it.
    for (let i = 0; !asked; i++) {
      const { version, document } = await (await request.get(api)).json();
      const foot = document.parts.find((p: { name: string }) => /Sole|Base/.test(p.name)).id;
      const edits = [{ setPart: { part: foot, patch: { name: `Base ${i}` } } }];
      expect((await request.post(`${api}/edits`, { data: { version, edits } })).ok()).toBe(true);
      await expect.poll(async () => asked || (await page.getByRole("treeitem", { name: `Base ${i}` }).count()) > 0).toBe(true);
    }
    const name = page.getByLabel("Name", { exact: true });
    for (let i = 0; i < 2; i++) {
      await name.fill(`Tread ${i}`);
      await name.press("Enter");
      await expect(page.getByLabel("Parts").getByText(/Base|Tread/)).toBeVisible();
    }
    await expect(page.getByRole("treeitem", { name: "Tread 1" })).toBeVisible();
    const late = page.waitForResponse(api);
    release();
    await late;
    await page.getByRole("treeitem", { name: "Arm" }).click();
    await expect(page.getByRole("treeitem", { name: "Tread 1" })).toBeVisible();
  });
});
