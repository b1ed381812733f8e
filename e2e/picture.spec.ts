import { expect, test } from "@playwright/test";
import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { PNG } from "pngjs";
import validator from "gltf-validator";
import { binary, ready, start } from "./server.mjs";

let server: Awaited<ReturnType<typeof start>>;
test.beforeAll(async () => {
  server = await start("demo");
});
test.afterAll(async () => server.stop());

// Khronos' own validator has nothing to say about the GLB that is written.
test("the demonstration model is a valid glTF", async () => {
  const file = join(server.data, "lantern.glb");
  execFileSync(binary, ["demo", "--write-model", file]);
  const report = await validator.validateBytes(new Uint8Array(readFileSync(file)));
  expect(report.issues.messages).toEqual([]);
  expect(report.info.totalTriangleCount).toBeGreaterThan(60_000);
});

// The outline that the renderer draws and the one in the picture are the same: overlap over 0.99.
for (const mover of ["object", "camera"] as const)
  test(`the picture shows what is rendered, the ${mover} moving`, async ({ page, request }) => {
    await page.goto(server.address + "/?plain");
    await ready(page, 0);
    const id = page.url().split("/shots/")[1]!.split("?")[0]!;
    const api = `${server.address}/api/shots/${id}`;
    let shot = await (await request.get(api)).json();
    const edit = async (e: unknown) => {
      const r = await request.post(api + "/edits", { data: { version: shot.version, edit: e } });
      expect(r.status()).toBe(200);
      shot = await r.json();
    };
    const floor = shot.document.parts.find((p: { kind: string }) => p.kind === "floor");
    await edit({ setPart: { part: { ...floor, hidden: true } } }); // its shadow is alpha, too
    const move = shot.document.parts[0].moves[0];
    await edit({ setMove: { move: { ...move, turntable: { ...move.turntable, moves: mover } } } });
    await page.reload();
    const size = 300;
    const frame = 29;
    await ready(page, frame);
    const view = await page.evaluate((n) => window.perigyre!.pixels(n, n), size);
    const settings = { width: size, height: size, from: 0, to: 95, first: 1, padding: 4, name: "{frame}", quality: "draft", bits: 8, backdrop: null };
    const test = await request.post(api + "/test", { data: { settings, frame }, timeout: 120_000 });
    const rendered = PNG.sync.read(await test.body()).data;
    let both = 0;
    let either = 0;
    for (let i = 3; i < rendered.length; i += 4) {
      const a = rendered[i]! >= 128;
      const b = view[i]! >= 128;
      if (a && b) both++;
      if (a || b) either++;
    }
    expect(either).toBeGreaterThan(10_000);
    expect(both / either).toBeGreaterThan(0.99);
  });
