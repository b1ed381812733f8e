import { expect, test } from "@playwright/test";
import { spawn, type ChildProcess } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { bracket } from "./models.js";
import { dropModel, step } from "./pages.js";
import { binary, ready, start } from "./server.mjs";

let server: Awaited<ReturnType<typeof start>>;
const cache = mkdtempSync(join(tmpdir(), "perigyre-workers-"));
const processes: ChildProcess[] = [];
const end = (p: ChildProcess) =>
  new Promise<void>((over) => {
    if (p.exitCode !== null || p.signalCode !== null) return over();
    p.on("exit", () => over());
    p.kill("SIGKILL");
  });

test.beforeEach(async () => {
  server = await start("serve", "--workers", "127.0.0.1:0", "--workers-token", "otter");
});
test.afterEach(async () => {
  await Promise.all(processes.map(end));
  await server.stop();
  rmSync(cache, { recursive: true, force: true });
});

test("a run is spread over two workers, one of them is killed, the page tells, and the run ends whole", async ({ page }) => {
  await page.goto(server.address);
  await dropModel(page, "bracket.glb", await bracket());
  await expect(page.getByRole("treeitem", { name: "Arm" })).toBeVisible();
  await ready(page, 0);
  await step(page, "Render");
  await page.getByRole("button", { name: "Workers…" }).click();
  const line = (await page.getByTestId("join-line").textContent())!;
  const [, ...words] = line.split(" ");
  for (const name of ["left", "right"])
    processes.push(spawn(binary, [...words, "--name", name, "--threads", "1", "--cache", join(cache, name)], { stdio: "inherit" }));
  const state = (name: string) => page.getByTestId(`worker ${name}`).getByTestId("worker-state");
  await expect(state("left")).toHaveText("waiting");
  await expect(state("right")).toHaveText("waiting");

  await test.step("this machine is paused, so that the others render", async () => {
    await page.getByTestId("worker This machine").getByRole("button", { name: "pause" }).click();
    await expect(state("This machine")).toHaveText("paused");
    await page.keyboard.press("Escape");
  });
  const fill = async (label: string, value: string) => {
    await page.getByLabel(label, { exact: true }).fill(value);
    await page.keyboard.press("Enter");
  };
  await fill("Width", "240");
  await fill("To frame", "23");
  await page.getByRole("button", { name: /^Render/ }).last().click();
  await page.getByRole("button", { name: "Workers…" }).click();
  await expect(state("left")).toContainText("drawing bracket.00");
  await expect(page.getByTestId("worker left").locator("td").nth(3)).not.toHaveText("0");
  await end(processes[0]!);
  await expect(state("left")).toHaveText("away", { timeout: 60_000 });
  await page.getByTestId("worker left").getByRole("button", { name: "forget" }).click();
  await expect(page.getByTestId("worker left")).toBeHidden();
  await page.keyboard.press("Escape");
  await expect(page.getByTestId("run-state")).toContainText("done, 24 of 24 frames", { timeout: 120_000 });
  await page.getByRole("button", { name: "Verify" }).click();
  await expect(page.getByText("all files as written")).toBeVisible();

  const folder = join(server.data, "renders", readdirSync(join(server.data, "renders"))[0]!);
  const frames = readdirSync(folder).filter((f) => f.endsWith(".png"));
  expect(frames).toHaveLength(24);
  await test.step("this machine, alone, draws the same to the bit", async () => {
    await page.getByRole("button", { name: "Workers…" }).click();
    await page.getByTestId("worker This machine").getByRole("button", { name: "let it work" }).click();
    await page.getByTestId("worker right").getByRole("button", { name: "drain" }).click();
    await expect(state("right")).toHaveText("drained");
    await page.keyboard.press("Escape");
    const before = readFileSync(join(folder, frames[7]!));
    // Another name of the file, so that none of the frames above is taken again.
    const reply = await page.request.post(server.address + "/api/shots/" + new URL(page.url()).pathname.split("/").pop() + "/runs", {
      data: { settings: { ...(await (await page.request.get(server.address + "/api/runs")).json())[0].settings, from: 7, to: 7, only: [] }, frame: 0 },
    });
    expect(reply.ok()).toBe(true);
    const run = (await reply.json()) as { id: string; folder: string };
    await expect
      .poll(async () => (await (await page.request.get(server.address + "/api/runs/" + run.id)).json()).progress.state, { timeout: 60_000 })
      .toBe("done");
    expect(readFileSync(join(run.folder, frames[7]!)).equals(before)).toBe(true);
  });
});
