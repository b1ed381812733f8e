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
