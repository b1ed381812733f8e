import { defineConfig } from "@playwright/test";
import { browser } from "./server.mjs";

export default defineConfig({
  testDir: ".",
  timeout: 900_000, // a net for what hangs; machines without a GPU differ fivefold
  expect: { timeout: 30_000 },
  workers: 1, // WebGL is software here and takes every core
  reporter: [["list"]],
  use: { actionTimeout: 180_000, navigationTimeout: 180_000, launchOptions: browser, viewport: { width: 1280, height: 800 }, acceptDownloads: true },
});
