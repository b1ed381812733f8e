import { expect, type Page } from "@playwright/test";

export interface Part {
  id: string;
  name: string;
  parent: string;
  kind: string;
  rest: { position: number[]; rotation: number[]; size: number[] };
  pivot: number[];
  front?: number[];
  set?: boolean;
  moves: { kind: string }[];
  tracks?: { value: string; pins: { time: number; value: number }[] }[];
  materials?: string[];
  light?: { rig?: string };
}
export interface Reply {
  document: {
    frames: number;
    camera: string;
    parts: Part[];
    finishes?: { name: string; swaps: unknown[] }[];
    angles?: { name: string }[];
    environment: { bound?: string };
  };
  loop: { closes: boolean };
}

/** The open shot, as the server has it. */
export const reply = async (page: Page): Promise<Reply> => {
  const at = new URL(page.url());
  return (await page.request.get(at.origin + "/api" + at.pathname)).json();
};
export const partOf = async (page: Page, name: string): Promise<Part> =>
  (await reply(page)).document.parts.find((p) => p.name === name)!;

export const step = (page: Page, name: string) => page.getByLabel("Steps").getByRole("button", { name }).click();

/** Adds a part by the tree's own menu. */
export const add = (page: Page, what: string) => made(page, async () => {
  await page.getByRole("button", { name: "Add a part" }).click();
  await page.getByRole("menuitem", { name: what, exact: true }).click();
});

/** Does what makes one more part, and waits until that is selected. */
export async function made(page: Page, how: () => Promise<void>) {
  const old = await page.getByRole("treeitem").evaluateAll((all) => all.filter((e) => e.getAttribute("aria-selected") === "true").map((e) => e.getAttribute("aria-label")));
  const parts = (await reply(page)).document.parts.length;
  await how();
  await expect.poll(async () => (await reply(page)).document.parts.length).toBe(parts + 1);
  const { name } = (await reply(page)).document.parts.find((_, i, all) => i === all.length - 1)!;
  await expect(page.getByRole("treeitem", { selected: true })).toHaveCount(1);
  if (!old.includes(name)) await expect(page.getByRole("treeitem", { name, exact: true, selected: true })).toBeVisible();
}

/** Types into a field, with Enter. */
export const type = async (page: Page, field: string, value: string) => {
  const f = page.getByRole("textbox", { name: field, exact: true }).last();
  await f.click();
  await f.fill(value);
  await f.press("Enter");
};

/** Picks one of a field's choices. */
export const pick = async (page: Page, field: RegExp, choice: string | RegExp) => {
  await page.getByRole("button", { name: field }).click();
  await page.getByRole("option", { name: choice, exact: typeof choice === "string" }).click();
};

/** Begins with an empty shot, from the first page. */
export async function empty(page: Page, address: string) {
  await page.goto(address);
  await page.getByRole("button", { name: "an empty shot" }).click();
  await page.waitForURL(/\/shots\//);
  await expect(page.getByRole("treeitem", { name: "Three-quarter" })).toBeVisible();
}

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
  expect(answer.status(), await answer.text()).toBe(200);
  const { shot } = (await answer.json()) as { shot: string };
  await page.waitForURL((url) => url.pathname === `/shots/${shot}`);
  return shot;
}
