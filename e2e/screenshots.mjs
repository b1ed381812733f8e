// Takes the pictures in docs/screenshots from the demonstration.
import { chromium } from "@playwright/test";
import { spawn } from "node:child_process";
import { mkdirSync } from "node:fs";
import { join } from "node:path";
import { figure } from "./figure.mjs";
import { binary, browser, ready, root, start } from "./server.mjs";

const out = join(root, "docs", "screenshots");
mkdirSync(out, { recursive: true });
const server = await start("demo", "--workers", "127.0.0.1:0", "--workers-token", "brass-otter");
const b = await chromium.launch(browser);
const page = await b.newPage({ viewport: { width: 1280, height: 800 } });

/** Waits for what was asked to be drawn: two pictures after the last change. */
const drawn = () => page.evaluate(() => new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r))));
const shoot = async (name) => {
  await drawn();
  await page.screenshot({ path: join(out, name + ".png") });
  console.log(name);
};
const edit = async (e) => {
  const id = page.url().split("/shots/")[1];
  const api = `${server.address}/api/shots/${id}`;
  const shot = await (await page.request.get(api)).json();
  const r = await page.request.post(api + "/edits", { data: { version: shot.version, edits: [e(shot.document)] } });
  if (!r.ok()) throw new Error(await r.text());
};

try {
  await page.goto(server.address);
  await ready(page, 8);
  await page.keyboard.press("1");
  await shoot("bring-in");

  await page.keyboard.press("2");
  await page.keyboard.press("`");
  await page.getByRole("treeitem", { name: "Bail", exact: true }).click();
  await page.getByRole("button", { name: "Middle", exact: true }).click();
  await page.getByRole("button", { name: "Undo" }).and(page.locator(":enabled")).waitFor();
  await page.locator("[data-testid=handles]").waitFor();
  await shoot("arrange");
  await page.getByRole("button", { name: "Undo" }).click();
  await page.keyboard.press("`");

  const part = (d, name) => d.parts.find((p) => p.name === name);
  await edit((d) => ({ addMove: { part: part(d, "Lantern").id, move: { id: "float", kind: "float", muted: false, float: { height: 0.006, period: 48, tilt: 0 } } } }));
  await edit((d) => ({ addMove: { part: part(d, "Bail").id, move: { id: "bail", kind: "float", muted: false, float: { height: 0.004, period: 36, tilt: 0.05 } } } }));
  await page.keyboard.press("3");
  await page.getByText(/does not close/).waitFor();
  await ready(page, 8);
  await page.getByRole("treeitem", { name: "Bail", exact: true }).click();
  await shoot("move");
  await page.keyboard.press("6");
  await page.getByText("Bail jumps at the seam").waitFor();
  await page.getByRole("button", { name: "Every 32 f" }).click();
  await page.getByText("Bail jumps at the seam").waitFor({ state: "hidden" });
  await page.keyboard.press("4");
  await page.getByLabel("Thirds").click();
  await shoot("frame");
  await page.getByLabel("Thirds").click();
  await page.keyboard.press("Shift+L");
  await page.locator("[data-testid=proof][data-samples='32']").waitFor({ timeout: 120_000 });
  await shoot("proof");
  await page.keyboard.press("Shift+L");
  await page.keyboard.press("5");
  await page.keyboard.press("Escape");
  await page.getByRole("group", { name: "Light plan, from above" }).getByText("Key softbox").click();
  await page.getByRole("button", { name: "Light theme" }).click();
  await ready(page, 8);
  await shoot("light");
  await page.getByRole("button", { name: "Dark theme" }).click();

  await edit(() => ({ removeMoves: { moves: ["bail"] } })); // tilted, it passes through the cap, which blocks
  await page.keyboard.press("7");
  await page.getByLabel("Size: 1080").click();
  await page.getByRole("option", { name: /540/ }).click();
  const quality = async (name) => {
    await page.getByRole("button", { name: /^Quality/ }).click();
    await page.getByRole("option", { name: new RegExp("^" + name) }).click();
  };
  await quality("final");
  await page.getByRole("switch", { name: "With the frames beside" }).and(page.locator("[aria-checked=true]")).waitFor();
  await shoot("render");
  await quality("proof");
  await page.getByLabel("To frame").fill("3");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Render", exact: true }).click();
  await page.getByText(/done, 4 of 4/).waitFor({ timeout: 600_000 });
  await page.getByTestId("player").getByRole("button", { name: "Stop" }).click();
  await page.locator("[data-testid=player-picture][data-frame]").waitFor();
  await shoot("player");

  await page.getByRole("button", { name: "Projects and shots" }).click();
  await page.getByRole("menuitem", { name: "Mark", exact: true }).click();
  await page.getByRole("treeitem", { name: "Wick", exact: true }).waitFor();
  await ready(page, 90);
  await page.keyboard.press("2");
  await page.getByRole("treeitem", { name: "Mark", exact: true }).click();
  await page.getByText("Front edge").waitFor();
  await shoot("mark");

  await page.getByRole("button", { name: "Projects and shots" }).click();
  await page.getByRole("menuitem", { name: "Four finishes", exact: true }).click();
  await page.getByRole("treeitem", { name: "Collar", exact: true }).waitFor();
  await ready(page, 0);
  await page.keyboard.press("4");
  for (const box of await page.getByRole("checkbox", { name: "compare" }).all()) await box.check();
  await page.getByRole("button", { name: "Compare 2" }).click();
  await page.getByTestId("pane").nth(1).waitFor();
  await ready(page, 8);
  await shoot("angles");
  await page.getByRole("button", { name: "back to the picture" }).click();
  await page.keyboard.press("5");
  await page.getByRole("treeitem", { name: "Collar", exact: true }).click();
  await page.getByRole("button", { name: "Signal" }).first().click();
  await page.getByText("shown: Signal").waitFor();
  await page.waitForFunction(() => [...document.images].every((i) => i.complete));
  await ready(page, 8);
  await shoot("finishes");

  await page.getByRole("button", { name: "Projects and shots" }).click();
  await page.getByRole("menuitem", { name: "Broken on purpose", exact: true }).click();
  await page.keyboard.press("6");
  await page.getByText("Winding jumps at the seam").waitFor({ timeout: 120_000 });
  await page.getByLabel("Steps").getByLabel(/^\d+ findings/).waitFor({ timeout: 120_000 });
  await page.waitForFunction(() => [...document.images].every((i) => i.complete && i.naturalWidth > 0));
  await ready(page, 0);
  await shoot("check");
  const other = async (name) => {
    const { projects } = await (await page.request.get(server.address + "/api/state")).json();
    await page.goto(`${server.address}/shots/${projects[0].shots.find((s) => s.name === name).id}`);
  };
  await other("Taken apart");
  await ready(page, 100);
  await page.keyboard.press("3");
  await page.getByRole("treeitem", { name: "Lantern", exact: true }).click();
  await page.getByRole("button", { name: /^[0-9]+ steps$/ }).click();
  await shoot("apart");
  await other("Inside");
  await ready(page, 60);
  await page.keyboard.press("2");
  await page.getByRole("treeitem", { name: "Cutter of Base", exact: true }).click();
  await page.locator("[data-testid=handles]").waitFor();
  await shoot("inside");
  await other("Cartons");
  await ready(page, 96);
  await page.keyboard.press("6");
  await page.getByRole("heading", { name: "Proved" }).waitFor({ timeout: 120_000 });
  await page.waitForFunction(() => [...document.images].every((i) => i.complete));
  await shoot("cartons");

  // Two machines that join.
  await other("Turntable");
  await ready(page, 0);
  await page.keyboard.press("7");
  const joined = await (await page.request.get(server.address + "/api/workers")).json();
  const [, ...words] = joined.line.split(" ");
  const workers = ["studio-2", "attic"].map((name) => spawn(binary, [...words, "--name", name, "--threads", "1", "--cache", join(server.data, name)], { stdio: "ignore" }));
  await page.getByLabel("Width", { exact: true }).fill("320");
  await page.keyboard.press("Enter");
  await page.getByLabel("To frame").fill("95"); // so many that they are at it when the picture is taken
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: /^Render( all the same)?$/ }).last().click();
  await page.getByRole("button", { name: "Workers…" }).click();
  for (const name of ["studio-2", "attic"]) await page.getByTestId(`worker ${name}`).getByText(/drawing/).waitFor({ timeout: 60_000 });
  await page.getByTestId("worker attic").locator("td").nth(3).getByText(/[1-9]/).waitFor({ timeout: 120_000 });
  await shoot("workers");
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Cancel" }).click();
  for (const w of workers) w.kill();

  // A figure that is not the demonstration's, and a soft ball.
  const form = { file: { name: "bird.glb", mimeType: "model/gltf-binary", buffer: await figure() } };
  const bird = await (await page.request.post(server.address + "/api/imports", { multipart: form })).json();
  await page.goto(`${server.address}/shots/${bird.shot}`);
  await ready(page, 30);
  await page.keyboard.press("3");
  await page.getByRole("treeitem", { name: "bird", exact: true }).click();
  await page.getByRole("button", { name: "Shot as long as the clip" }).click();
  await page.getByText("closes: once in the loop").waitFor();
  await ready(page, 30);
  await shoot("alive");
  const soft = await (await page.request.post(server.address + "/api/shots", { data: { project: bird.project, name: "Soft" } })).json();
  await page.goto(`${server.address}/shots/${soft.shot}`);
  await ready(page, 0);
  await edit(() => ({ addShape: { kind: "capsule", id: "sack" } }));
  const point = (i, to) => Object.fromEntries(to.map((v, k) => [`point ${i} ${"xyz"[k]}`, v]));
  await edit(() => ({ addMove: { part: "sack", kind: "cage", id: "cage" } }));
  await edit(() => ({ setMove: { move: "cage", values: { mirror: "x", ...point(12, [-0.03, 0.01, 0]), ...point(14, [0.03, 0.01, 0]), ...point(22, [0.02, -0.03, 0]), ...point(4, [0, 0.01, 0.02]) } } }));
  await page.keyboard.press("3");
  await page.getByRole("treeitem", { name: "Capsule", exact: true }).click();
  await page.getByLabel("Handle: Point 1 2 2", { exact: true }).click();
  await ready(page, 0);
  await shoot("soft");
} finally {
  await b.close();
  await server.stop();
}
