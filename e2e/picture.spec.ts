import { expect, test } from "@playwright/test";
import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { PNG } from "pngjs";
import validator from "gltf-validator";
import { binary, ready, start } from "./server.mjs";

let server: Awaited<ReturnType<typeof start>>;
test.beforeEach(async () => {
  server = await start("demo");
});
test.afterEach(async () => server.stop());

// Khronos' own validator has nothing to say about the GLB that is written.
test("the demonstration model is a valid glTF", async () => {
  const file = join(server.data, "lantern.glb");
  execFileSync(binary, ["demo", "--write-model", file]);
  const report = await validator.validateBytes(new Uint8Array(readFileSync(file)));
  expect(report.issues.messages).toEqual([]);
  expect(report.info.totalTriangleCount).toBeGreaterThan(60_000);
});

// The outline that the renderer draws and the one in the picture are the same: overlap over 0.99.
for (const mover of ["object", "camera", "bent and twisted object"] as const)
  test(`the picture shows what is rendered, the ${mover} moving`, async ({ page, request }) => {
    await page.goto(server.address + "/?plain");
    await ready(page, 0);
    const id = page.url().split("/shots/")[1]!.split("?")[0]!;
    const api = `${server.address}/api/shots/${id}`;
    let shot = await (await request.get(api)).json();
    const edit = async (e: unknown) => {
      const r = await request.post(api + "/edits", { data: { version: shot.version, edits: [e] } });
      expect(r.status(), await r.text()).toBe(200);
      shot = await (await request.get(api)).json();
    };
    const floor = shot.document.parts.find((p: { kind: string }) => p.kind === "floor");
    await edit({ setPart: { part: floor.id, patch: { hidden: true } } }); // its shadow is alpha, too
    const move = shot.document.parts[0].moves[0];
    await edit({ setMove: { move: move.id, values: { moves: mover === "camera" ? "camera" : "object" } } });
    if (mover === "bent and twisted object") {
      const lantern = shot.document.parts.find((p: { name: string }) => p.name === "Lantern");
      const gently = { muted: false, span: null, pace: { kind: "sine", way: "both" }, laps: 2, after: "there and back" };
      const flex = { axis: 1, towards: 0, base: [0, 0.02, 0], length: 0.15 };
      for (const m of [
        { id: "twist", kind: "flex", flex: { ...flex, shape: "twist", angle: 2 } },
        { id: "bend", kind: "flex", flex: { ...flex, shape: "bend", angle: 1.2 } },
        { id: "red", kind: "look", look: { what: "colour", own: true, from: [0, 0, 0], to: [1, 0, 0] } },
      ])
        await edit({ addMove: { part: lantern.id, move: { ...gently, ...m } } });
    }
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
    const red = [0, 0]; // how much red is more than blue, in the picture and in the render
    for (let i = 3; i < rendered.length; i += 4) {
      const a = rendered[i]! >= 128;
      const b = view[i]! >= 128;
      if (a && b) {
        both++;
        red[0]! += view[i - 3]! - view[i - 1]!;
        red[1]! += rendered[i - 3]! - rendered[i - 1]!;
      }
      if (a || b) either++;
    }
    expect(either).toBeGreaterThan(10_000);
    expect(both / either).toBeGreaterThan(0.99);
    if (mover === "object") {
      // How long an edit takes to its new picture on the demonstration: evaluated, sent and drawn. It is reported,
      // not asserted: WebGL is software here.
      const turned = { setMove: { move: move.id, values: { direction: "counterclockwise" } } };
      const ms = await page.evaluate(
        async ({ api, version, edit }) => {
          const began = performance.now();
          await fetch(api + "/edits", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ version, edits: [edit] }) });
          const answered = performance.now();
          while (window.perigyre!.drawn() <= version) await new Promise((r) => setTimeout(r, 2));
          return [answered - began, performance.now() - began].map(Math.round);
        },
        { api, version: shot.version, edit: turned },
      );
      console.log(`edit of the demonstration: ${ms[0]} ms at the server, ${ms[1]} ms to its new picture`);
    }
    if (mover === "bent and twisted object") {
      // Its colour is on its way to red in both; lights differ, and the plinth is grey.
      expect(red[1]! / both).toBeGreaterThan(15);
      expect(red[0]! / both).toBeGreaterThan(15);
    }
  });
