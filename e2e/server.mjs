// Starts the real binary on a free port, with a data folder of its own.
import { spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

export const root = join(dirname(fileURLToPath(import.meta.url)), "..");
export const binary = join(root, "bin", "perigyre");

export const browser = {
  executablePath: "/usr/bin/chromium",
  args: [
    "--no-sandbox",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--use-gl=angle",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
  ],
};

export async function start(command, ...more) {
  const data = mkdtempSync(join(tmpdir(), "perigyre-e2e-"));
  const child = spawn(binary, [command, "--data", data, "--listen", "127.0.0.1:0", ...more], { stdio: ["ignore", "pipe", "inherit"] });
  const address = await new Promise((resolve, reject) => {
    let text = "";
    child.stdout.on("data", (d) => {
      text += d;
      const m = /http:\S+/.exec(text);
      if (m) resolve(m[0]);
    });
    child.on("exit", (code) => reject(new Error(`the server ended with ${code}: ${text}`)));
  });
  /** Ends the server and leaves its data. */
  const halt = async () => {
    if (child.exitCode !== null) return;
    const over = new Promise((r) => child.on("exit", r));
    child.kill("SIGTERM");
    await over;
  };
  return {
    address,
    data,
    halt,
    stop: async () => {
      await halt();
      rmSync(data, { recursive: true, force: true });
    },
  };
}

/** Waits until every mesh is shown and the playhead stands on a frame. */
export async function ready(page, frame) {
  await page.waitForFunction(() => window.perigyre?.ready(), null, { timeout: 120_000 });
  if (frame !== undefined)
    await page.evaluate((f) => {
      window.perigyre.play(0);
      window.perigyre.seek(f);
    }, frame);
}
