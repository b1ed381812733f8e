import { expect, test } from "@playwright/test";
import { readdirSync, readFileSync, unlinkSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { bracket } from "./models.js";
import { dropModel, step } from "./pages.js";
import { ready, start } from "./server.mjs";

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("serve");
});
test.afterEach(async () => server.stop());

test("an EXR run with passes is paused and goes on, damaged frames are found and repaired, and it is played over a plate", async ({ page }) => {
  await page.goto(server.address + "/?plain");
  await dropModel(page, "bracket.glb", await bracket());
  await expect(page.getByRole("treeitem", { name: "Arm" })).toBeVisible();
  await ready(page, 0);

  await test.step("a proof of the frame sharpens, and begins anew with another frame", async () => {
    await page.keyboard.press("Shift+L");
    const proof = page.getByTestId("proof");
    for (const frame of [0, 30]) {
      await page.evaluate((f) => window.perigyre!.seek(f), frame);
      await expect(proof.getByRole("img", { name: `Proof of frame ${frame}`, exact: true })).toBeVisible({ timeout: 60_000 });
      await expect(proof).toHaveAttribute("data-samples", /[1-9]/, { timeout: 60_000 });
    }
    await page.keyboard.press("Shift+L");
    await expect(proof).toBeHidden();
  });

  await page.keyboard.press("7");
  const choose = async (label: RegExp, option: RegExp) => {
    await page.getByRole("button", { name: label }).click();
    await page.getByRole("option", { name: option }).click();
  };
  const fill = async (label: string, value: string) => {
    await page.getByLabel(label, { exact: true }).fill(value);
    await page.keyboard.press("Enter");
  };

  await test.step("size and range that were changed go back to the shot's", async () => {
    const names = page.getByTestId("names");
    await fill("To frame", "3");
    await expect(names).toContainText("4 frames");
    await fill("To frame", "95");
    await expect(names).toContainText("96 frames");
    await expect(page.getByLabel("To frame")).toHaveValue("95");
    await choose(/^Size/, /50 %/);
    await expect(page.getByLabel("Width", { exact: true })).toHaveValue("540");
    await choose(/^Size/, /100 %/);
    await expect(page.getByLabel("Width", { exact: true })).toHaveValue("1080");
    await expect(names).toContainText("96 frames");
  });

  await test.step("a number that a browser remembers as null is the shot's", async () => {
    await page.evaluate(() => {
      for (const key of Object.keys(localStorage).filter((k) => k.startsWith("perigyre.render.")))
        localStorage.setItem(key, '{"to":null,"width":null}');
    });
    await page.reload();
    await step(page, "Render");
    await expect(page.getByLabel("Width", { exact: true })).toHaveValue("1080");
    await expect(page.getByTestId("names")).toContainText("96 frames");
  });

  await test.step("JPEG has no alpha and takes a backdrop; EXR has passes", async () => {
    await choose(/^Format: PNG/, /JPEG/);
    await expect(page.getByRole("switch", { name: "Alpha (straight)" })).not.toBeChecked();
    await page.getByRole("switch", { name: "Alpha (straight)" }).click();
    await expect(page.getByTestId("names")).toContainText("JPEG has no alpha");
    await choose(/^Format: JPEG/, /EXR/);
    await expect(page.getByTestId("names")).toContainText("bracket.0001.exr");
    await page.getByRole("group", { name: "Passes" }).getByRole("button", { name: "depth" }).click();
    await page.getByRole("group", { name: "Passes" }).getByRole("button", { name: "matte", exact: true }).click();
  });

  await test.step("a sequence in final quality is denoised with the frames beside, a still by itself", async () => {
    const beside = page.getByRole("switch", { name: "With the frames beside" });
    await expect(beside).not.toBeChecked();
    await choose(/^Quality/, /^final/);
    await expect(beside).toBeChecked();
    await fill("Noise let pass", "20");
    await fill("To frame", "0");
    await expect(beside).toBeHidden();
  });

  await test.step("a test frame that cannot be cancelled says so, and can be once the server answers", async () => {
    const cancel = page.getByRole("button", { name: "Cancel", exact: true });
    await fill("Noise let pass", "0.5"); // so that it takes its time
    await page.route("**/test", (r) => (r.request().method() === "DELETE" ? r.abort() : r.continue()));
    await page.getByRole("button", { name: "Render a test frame" }).click();
    await cancel.click();
    await expect(page.getByText("The server does not answer. Is it still running?")).toBeVisible();
    await page.getByText("The server does not answer.").locator("..").getByRole("button", { name: "Close" }).click();
    await page.unroute("**/test");
    await cancel.click();
    await expect(page.getByRole("button", { name: "Render a test frame" })).toBeVisible();
    await fill("Noise let pass", "20");
  });

  await test.step("it is paused and goes on", async () => {
    await fill("Width", "120");
    await fill("To frame", "11");
    await page.getByRole("button", { name: "Render", exact: true }).click();
    const state = page.getByTestId("run-state");
    await expect(state).toContainText(/[1-9]\d* of 12 frames/);
    await page.getByRole("button", { name: "Pause" }).click();
    await expect(state).toContainText("paused");
    await page.getByRole("button", { name: "Go on" }).click();
    await expect(state).toContainText("done, 12 of 12 frames", { timeout: 120_000 });
  });

  const folder = join(server.data, "renders", readdirSync(join(server.data, "renders"))[0]!);
  await test.step("a damaged and a missing frame are found and repaired", async () => {
    const frame = join(folder, "bracket.0003.exr");
    const before = readFileSync(frame);
    writeFileSync(frame, "damaged");
    unlinkSync(join(folder, "bracket.0007.exr"));
    await page.getByRole("button", { name: "Verify" }).click();
    await page.getByRole("button", { name: "Repair 2" }).click();
    await expect(page.getByTestId("run-state")).toContainText("done, 12 of 12 frames", { timeout: 60_000 });
    await page.getByRole("button", { name: "Verify" }).click();
    await expect(page.getByText("all files as written")).toBeVisible();
    expect(before.length).toBeGreaterThan(2000);
    expect(readFileSync(frame).equals(before)).toBe(true); // with the neighbours that it had
  });

  await test.step("it is played over a plate", async () => {
    const png = "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8Dwn4EIwDiqkL4KAcT9GO0U4BxoAAAAAElFTkSuQmCC";
    const [chooser] = await Promise.all([
      page.waitForEvent("filechooser"),
      (async () => {
        await page.getByRole("button", { name: /^Over: / }).click();
        await page.getByRole("option", { name: "a plate of yours" }).click();
      })(),
    ]);
    await chooser.setFiles({ name: "plate.png", mimeType: "image/png", buffer: Buffer.from(png, "base64") });
    await expect(page.getByTestId("player-picture").locator("..")).toHaveCSS("background-image", /blob:/);
    await expect(page.getByTestId("player-picture")).toHaveAttribute("data-frame", /\d/);
  });

  await test.step("a pass of it is played", async () => {
    const middle = () =>
      page.getByTestId("player-picture").evaluate((c: HTMLCanvasElement) => {
        const g = document.createElement("canvas").getContext("2d")!;
        g.canvas.width = c.width;
        g.canvas.height = c.height;
        g.drawImage(c, 0, 0);
        const d = g.getImageData(0, 0, c.width, c.height).data;
        const seen = new Set<number>(); // of what surfaces cover: depths are greys, mattes flat colours
        for (let i = 0; i < d.length; i += 4) if (d[i + 3] === 255) seen.add((d[i]! << 16) | (d[i + 1]! << 8) | d[i + 2]!);
        return { many: seen.size, grey: [...seen].every((v) => v >> 16 === (v & 255) && ((v >> 8) & 255) === (v & 255)) };
      });
    await choose(/^Channels: /, /^depth/);
    await expect.poll(middle).toMatchObject({ grey: true });
    expect((await middle()).many).toBeGreaterThan(5);
    await choose(/^Channels: /, /^matte/);
    await expect.poll(async () => (await middle()).grey).toBe(false);
    expect((await middle()).many).toBeLessThan(5);
  });

  await test.step("a review that does not come says why, and comes when it is asked for again", async () => {
    const ask = async () => {
      await page.getByRole("button", { name: "As one file" }).click();
      await page.getByRole("menuitem", { name: /^Contact sheet/ }).click();
    };
    await page.route("**/review/*", (r) => r.abort());
    await ask();
    await expect(page.getByText("The server does not answer. Is it still running?")).toBeVisible();
    await page.unroute("**/review/*");
    const [file] = await Promise.all([page.waitForEvent("download"), ask()]);
    expect(file.suggestedFilename()).toMatch(/\.png$/);
  });
});
