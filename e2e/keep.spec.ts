import { expect, test, type Page } from "@playwright/test";
import { readFileSync } from "node:fs";
import { PNG } from "pngjs";
import { unzipSync } from "fflate";
import { bracket, quad } from "./models.js";
import { dropModel } from "./pages.js";
import { ready, start } from "./server.mjs";

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("serve");
});
test.afterEach(async () => server.stop());

type Files = { name: string; mimeType: string; buffer: Buffer }[];

async function bring(page: Page, button: string | RegExp, files: Files) {
  const [chooser] = await Promise.all([page.waitForEvent("filechooser"), page.getByRole("button", { name: button }).first().click()]);
  await chooser.setFiles(files);
}

const file = (name: string, buffer: Buffer) => ({ name, mimeType: "application/octet-stream", buffer });

function picture(paint: (x: number, y: number) => [number, number, number]): Buffer {
  const p = new PNG({ width: 32, height: 32 });
  for (let i = 0; i < 32 * 32; i++) p.data.set([...paint(i % 32, Math.floor(i / 32)), 255], 4 * i);
  return PNG.sync.write(p);
}

test("missing textures are found, a wrong slot is mended by dragging, and pictures find theirs", async ({ page }) => {
  await page.goto(server.address + "/?plain");
  await bring(page, "Choose a model…", [
    file("tile.obj", quad("tile.mtl")),
    file("tile.mtl", Buffer.from("newmtl Tile\nKd 1 1 1\nmap_Kd blue.png\nnorm lost.png\n")),
  ]);
  await expect(page.getByText("2 missing")).toBeVisible();
  const waves = (x: number, y: number): [number, number, number] => {
    const [nx, ny] = [0.5 * Math.cos(x / 2), 0.4 * Math.sin(y / 3)];
    return [nx, ny, Math.sqrt(1 - nx * nx - ny * ny)].map((v) => Math.round(127.5 + 127.5 * v)) as [number, number, number];
  };
  // The two have each other's names.
  await bring(page, "Pictures…", [file("blue.png", picture(waves)), file("lost.png", picture((x) => [20, 60, 40 + 6 * x]))]);
  await expect(page.getByText("2 missing")).toBeHidden();
  await expect(page.getByText(/blue.png in base colour: it looks like a normal map/)).toBeVisible();
  await page.getByTestId("slot-base colour").dragTo(page.getByTestId("slot-normal"));
  await expect(page.getByText(/it looks like a normal map/)).toBeHidden();
  await bring(page, "Pictures…", [file("tile_rough.png", picture((x) => [x * 8, x * 8, x * 8]))]);
  await expect(page.getByLabel("Brought last").getByText("tile_rough.png → roughness of Tile: by its name")).toBeVisible();
  await expect(page.getByTestId("slot-roughness and metal").getByRole("img")).toBeVisible();
});

test("versions are kept, compared and gone back to; parts and projects go elsewhere", async ({ page, request }) => {
  await request.post(server.address + "/api/imports", { multipart: { file: file("tile.obj", quad("")) } }); // another project
  await page.goto(server.address + "/?plain");
  await dropModel(page, "bracket.glb", await bracket());
  await expect(page.getByRole("treeitem", { name: "Arm" })).toBeVisible();
  await ready(page, 0);

  await page.keyboard.press("2");
  await page.getByRole("treeitem", { name: "Arm" }).click();
  await page.getByLabel("Up, y").fill("85");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: /saved/ }).click();
  await page.getByRole("button", { name: "Keep this version…" }).click();
  await page.getByRole("dialog").last().getByRole("textbox").fill("Arm up");
  await page.keyboard.press("Enter");
  await expect(page.getByText("Arm up")).toBeVisible();
  await page.getByTitle("Go back to it").last().click(); // the first of all
  await page.getByText("Arm up").hover();
  await page.getByRole("button", { name: "compare" }).first().click();
  await expect(page.getByLabel("Differences").getByText("Arm: moved by 15 mm.")).toBeVisible();
  await page.getByText("Arm up").click();
  await page.keyboard.press("Escape");
  await page.getByRole("treeitem", { name: "Arm" }).click();
  await expect(page.getByLabel("Up, y")).toHaveValue("85");

  // Ctrl C here, Ctrl V in the shot of the other project: the arm stands there as large as here.
  await page.keyboard.press("Control+c");
  await page.getByRole("button", { name: "Projects and shots" }).click();
  await page.getByRole("menuitem", { name: "Turntable" }).last().click();
  await expect(page.getByRole("treeitem", { name: "tile" }).first()).toBeVisible();
  await page.evaluate(() => document.body.dispatchEvent(new ClipboardEvent("paste", { bubbles: true })));
  await expect(page.getByRole("treeitem", { name: "Arm" })).toBeVisible();
  await page.getByRole("button", { name: "show", exact: true }).click();
  await expect(page.getByLabel("Numbers").getByText("20 × 100 × 50 mm")).toBeVisible();

  // The project goes into one file, and comes back from it as another project.
  await page.getByRole("button", { name: "Projects and shots" }).click();
  const [download] = await Promise.all([page.waitForEvent("download"), page.getByRole("menuitem", { name: /Save this project/ }).click()]);
  const zip = readFileSync(await download.path());
  const names = Object.keys(unzipSync(new Uint8Array(zip)));
  expect(names).toContain("shots/Turntable/shot.json");
  expect(names.filter((n) => n.endsWith(".glb")).length).toBeGreaterThanOrEqual(2); // the tile, the arm
  await page.getByRole("button", { name: "Projects and shots" }).click();
  const [chooser] = await Promise.all([page.waitForEvent("filechooser"), page.getByRole("menuitem", { name: /saved project/ }).click()]);
  await chooser.setFiles([file("tile.zip", zip)]);
  await expect(page.getByRole("treeitem", { name: "Arm" })).toBeVisible();
  await page.getByRole("button", { name: "Projects and shots" }).click();
  await expect(page.getByRole("menuitem", { name: "Turntable" })).toHaveCount(3);
});

test("a drawing is taken or named, a long import can be stopped, and everything is backed up", async ({ page, request }) => {
  const svg = (body: string) => Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60">${body}</svg>`);
  await page.goto(server.address);
  await bring(page, "Choose a model…", [
    file(
      "badge.svg",
      svg(`<linearGradient id="g"><stop stop-color="#e8b04b"/><stop offset="1" stop-color="#b0413e"/></linearGradient>
        <circle id="disc" cx="30" cy="30" r="20" fill="url(#g)"/><circle id="ring" cx="30" cy="30" r="27" fill="none" stroke="hsl(200,50%,30%)" stroke-width="3" stroke-dasharray="8 3"/>
        <text>a</text><text>b</text><rect width="5" height="5" filter="url(#f)"/>`),
    ),
  ]);
  await expect(page.getByRole("treeitem", { name: "ring line" })).toBeVisible();
  await expect(page.getByText("text (turn text into outlines before it is exported) (2 times)")).toBeVisible();
  await expect(page.getByText("the property filter")).toBeVisible();
  await expect(page.getByRole("img", { name: "base colour of Gradient of disc" })).toBeVisible();

  await page.getByRole("button", { name: "Backs" }).click();
  await page.getByRole("option", { name: "seen through" }).click();
  await expect(page.getByRole("button", { name: "Backs" })).toHaveText(/seen through/);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("button", { name: "Backs" })).toHaveText(/shown/);

  // Each of these strokes hides what it crosses: minutes of work.
  const hatch = Array.from({ length: 400 }, (_, i) => `<path stroke="#000" stroke-width=".05" d="M0 ${i * 0.15}H60M${i * 0.15} 0V60"/>`).join("");
  await bring(page, "Choose a model…", [file("hatch.svg", svg(hatch))]);
  await expect(page.getByText("Reading hatch.svg")).toBeVisible();
  await page.getByRole("button", { name: "Stop" }).click();
  await expect(page.getByText("It was stopped; nothing has changed")).toBeVisible();
  await expect(page.getByRole("dialog")).toBeHidden();

  const kept = unzipSync(new Uint8Array(await (await request.get(server.address + "/api/backup")).body()));
  expect(Object.keys(kept)).toContain("perigyre.db");
  expect(Object.keys(kept).filter((name) => name.startsWith("blobs/")).length).toBeGreaterThan(1);
});
