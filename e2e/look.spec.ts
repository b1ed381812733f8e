import { expect, test } from "@playwright/test";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { bracket } from "./models.js";
import { dropModel } from "./pages.js";
import { ready, root, start } from "./server.mjs";

/** Relative luminance and contrast of WCAG 2.2, 1.4.3. */
function luminance(hex: string): number {
  const [r, g, b] = [1, 3, 5].map((i) => {
    const v = parseInt(hex.slice(i, i + 2), 16) / 255;
    return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * r! + 0.7152 * g! + 0.0722 * b!;
}
function contrast(a: string, b: string): number {
  const [x, y] = [luminance(a), luminance(b)].sort((p, q) => q - p);
  return (x! + 0.05) / (y! + 0.05);
}

test("text has a contrast of 4.5 on all that it stands on, in both themes", () => {
  const css = readFileSync(join(root, "web", "src", "theme.css"), "utf8");
  for (const theme of [":root {", ":root.light {"]) {
    const block = css.slice(css.indexOf(theme)).split("}")[0]!;
    const token = Object.fromEntries([...block.matchAll(/--([\w-]+):\s*(#[0-9a-f]{6})/g)].map((m) => [m[1]!, m[2]!]));
    for (const ink of ["ink", "quiet", "verdigris", "brass", "coral", "heather", "fern"])
      for (const on of ["ground", "panel", "raised", "surround"])
        expect(contrast(token[ink]!, token[on]!), `${theme} ${ink} on ${on}`).toBeGreaterThanOrEqual(4.5);
    expect(contrast(token["on-verdigris"]!, token.verdigris!)).toBeGreaterThanOrEqual(4.5);
  }
});

test("every control of every step has a name for screen readers, and fits beside the others at 1180 x 700", async ({ page }) => {
  const server = await start("serve");
  try {
    await page.setViewportSize({ width: 1180, height: 700 });
    await page.goto(server.address);
    await dropModel(page, "bracket.glb", await bracket());
    await ready(page);
    await page.getByRole("treeitem", { name: "Arm", exact: true }).click();
    for (let k = 1; k <= 7; k++) {
      await page.keyboard.press(String(k));
      await expect(page.getByRole("complementary").last()).toBeVisible();
      const odd = await page.evaluate(() => {
        const named = (e: Element) =>
          (e.getAttribute("aria-label") ?? e.getAttribute("title") ?? e.textContent ?? "").trim() !== "" ||
          e.hasAttribute("aria-labelledby") ||
          ((e as HTMLInputElement).labels?.length ?? 0) > 0;
        const shown = (e: Element) => e.getClientRects().length > 0;
        const controls = [...document.querySelectorAll("button, input, select, textarea, [role=button], [role=switch], [role=treeitem], a[href]")];
        return [
          ...controls.filter((e) => shown(e) && !named(e)).map((e) => e.outerHTML.slice(0, 160)),
          ...[...document.querySelectorAll("aside")].filter((e) => e.scrollWidth > e.clientWidth + 1).map((e) => `${e.getAttribute("aria-label")} is ${e.scrollWidth - e.clientWidth} px too wide`),
          ...(document.documentElement.scrollWidth > innerWidth ? ["the page is wider than the window"] : []),
        ];
      });
      expect(odd, `step ${k}`).toEqual([]);
    }
  } finally {
    await server.stop();
  }
});
