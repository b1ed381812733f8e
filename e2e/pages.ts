import type { Page } from "@playwright/test";

/** Drops a file on the page. */
export async function drop(page: Page, name: string, data: Buffer) {
  const transfer = await page.evaluateHandle(
    ([name, data]) => {
      const t = new DataTransfer();
      t.items.add(new File([Uint8Array.from(atob(data!), (c) => c.charCodeAt(0))], name!));
      return t;
    },
    [name, data.toString("base64")],
  );
  await page.dispatchEvent("body", "drop", { dataTransfer: transfer });
}

/** Drops a model and waits until the shot that is made of it is open. */
export async function dropModel(page: Page, name: string, data: Buffer): Promise<string> {
  const [answer] = await Promise.all([
    page.waitForResponse((r) => r.request().method() === "POST" && r.url().endsWith("/api/imports")),
    drop(page, name, data),
  ]);
  const { shot } = (await answer.json()) as { shot: string };
  await page.waitForURL((url) => url.pathname === `/shots/${shot}`);
  return shot;
}
