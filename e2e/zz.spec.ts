import { expect, test } from "@playwright/test";
import { washer } from "./models.js";
import { ready, start } from "./server.mjs";
test("loop", async ({ page, request }) => {
  const server = await start("serve");
  await page.addInitScript(() => {
    const w = window as any; w.n = { raf: 0, draw: 0, long: 0 };
    const r = window.requestAnimationFrame; window.requestAnimationFrame = (f) => { w.n.raf++; return r(f); };
    for (const k of ["drawElements", "drawArrays", "drawElementsInstanced"]) { const p = WebGL2RenderingContext.prototype as any; const o = p[k]; p[k] = function (...a: any[]) { w.n.draw++; return o.apply(this, a); }; }
    { const P = WebGL2RenderingContext.prototype as any; const o = P.shaderSource; P.shaderSource = function (a: any, b: string) { w.src = (w.src ?? []); w.src.push((/SHADER_NAME (.*)/.exec(b) ?? [])[1] + ' ' + b.length + ' ' + [...b.matchAll(/#define (USE_\w+|NUM_\w+ \d+)/g)].map((m) => m[1]).join(' ')); return o.call(this, a, b); }; }
    new PerformanceObserver((l) => { for (const e of l.getEntries()) w.n.long += e.duration; }).observe({ entryTypes: ["longtask"] });
  });
  const text = washer(30, 14, 120).toString();
  const file = { name: "tube.obj", mimeType: "application/octet-stream", buffer: Buffer.from(text) };
  const made = await (await request.post(server.address + "/api/imports", { multipart: { file } })).json();
  const t0 = Date.now();
  await page.goto(`${server.address}/shots/${made.shot}${process.env.Q ?? "?plain"}`);
  await ready(page, 0);
  console.log("ready", Date.now() - t0);
  const n = () => page.evaluate(() => JSON.stringify((window as any).n));
  for (let i = 0; i < 4; i++) { console.log(await n()); await page.waitForTimeout(2000); }
  await page.getByLabel("Steps").getByRole("button", { name: "1 Bring in" }).click();
  for (let i = 0; i < 3; i++) { console.log(await n()); await page.waitForTimeout(2000); }
  const pick = async (n: string) => {
    await page.getByRole("button", { name: /^Upright axis/ }).click();
    await page.getByRole("option", { name: n }).click();
  };

  const cdp = await page.context().newCDPSession(page);
  await cdp.send("Profiler.enable");
  await pick("z is upright");
  await page.waitForTimeout(20000);
  await cdp.send("Profiler.start"); console.log(await page.evaluate(() => { const l = (window as any).src ?? (window as any).n.src; return JSON.stringify((window as any).src?.length); })); await page.evaluate(() => { (window as any).src = []; });
  await pick("y is upright");
  await page.waitForTimeout(20000);
  const { profile } = await cdp.send("Profiler.stop");
  const self = new Map<string, number>(); const parent = new Map<number, number>(); const node = new Map(profile.nodes.map((n) => [n.id, n]));
  for (const n of profile.nodes) for (const c of n.children ?? []) parent.set(c, n.id);
  const stack = new Map<string, number>();
  profile.samples!.forEach((id, i) => { const d = profile.timeDeltas![i]! / 1000; let names: string[] = []; let at: number | undefined = id; while (at !== undefined) { const f = node.get(at)!.callFrame; names.push(f.functionName + ":" + f.lineNumber + ":" + f.columnNumber); at = parent.get(at); } self.set(names[0]!, (self.get(names[0]!) ?? 0) + d); const k = names.slice(0, 8).join(" < "); stack.set(k, (stack.get(k) ?? 0) + d); });
  console.log([...self].sort((a, b) => b[1] - a[1]).slice(0, 12)); console.log([...stack].sort((a, b) => b[1] - a[1]).slice(0, 8));
  console.log(await page.evaluate(() => (window as any).src)); await server.stop();
});
