import { expect, test } from "@playwright/test";

const from = Date.now() - 600_000;
const WIDE = `from=${from}&to=${from + 700_000}`;

test("keys go from rung to rung, list themselves, and find things", async ({ page }) => {
  await page.goto(`/releases?${WIDE}&service=kiln&environment=workshop`);
  await expect(page.getByRole("row").filter({ hasText: "1.1.0" })).toBeVisible();
  await page.keyboard.press("4");
  await expect(page).toHaveURL(/\/scratch\?.*service=kiln/);
  await page.keyboard.press("5");
  await expect(page).toHaveURL(/\/releases\?/);
  await page.keyboard.press("?");
  await expect(page.getByRole("dialog", { name: "Keys" })).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("dialog", { name: "Keys" })).toBeHidden();
  await page.keyboard.press("/");
  await expect(page.getByPlaceholder("A page, a service, a metric…")).toBeFocused();
  await page.keyboard.type("quote");
  await expect(page.getByRole("option", { name: /quote/ }).first()).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/reading=p95/);
});

test("[ and ] go from release to release, and the address keeps it", async ({ page }) => {
  await page.goto(`/releases?service=kiln&environment=workshop&last=15m`);
  await expect(page.getByRole("button", { name: "◀ release" })).toBeEnabled();
  await page.keyboard.press("[");
  await expect(page).toHaveURL(/from=\d+.*to=\d+|to=\d+.*from=\d+/);
  await expect(page.getByText("standing still; go live")).toBeVisible();
  await page.keyboard.press("l");
  await expect(page.getByText(/live, every \d+ s/)).toBeVisible();
});

test("the window is dragged on the rail, and its ends move by keyboard", async ({ page }) => {
  await page.goto(`/releases?${WIDE}&service=kiln&environment=workshop`);
  const handle = page.getByRole("slider", { name: "Start of the window" });
  await handle.focus();
  const before = Number(await handle.getAttribute("aria-valuenow"));
  await page.keyboard.press("ArrowRight");
  await expect.poll(async () => Number(await handle.getAttribute("aria-valuenow"))).toBeGreaterThan(before);
  const box = (await handle.boundingBox())!;
  const moved = Number(await handle.getAttribute("aria-valuenow"));
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + 60, box.y + box.height / 2, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => Number(await handle.getAttribute("aria-valuenow"))).toBeGreaterThan(moved);
  await expect(page).toHaveURL(new RegExp(`to=${from + 700_000}|to=\\d+`));
});

test("a page tells that the server is away, and recovers by itself", async ({ page }) => {
  await page.route("**/api/ladder**", (route) => route.abort());
  await page.goto(`/releases?${WIDE}&service=kiln&environment=workshop`);
  await expect(page.getByRole("alert").filter({ hasText: "does not answer" }).first()).toBeVisible();
});

test("an address that is none says so inside the frame", async ({ page }) => {
  const response = await page.goto("/servicez/loans");
  expect(response?.status()).toBe(404);
  await expect(page.getByRole("heading", { name: "There is no such page" })).toBeVisible();
  await expect(page.getByRole("navigation", { name: "Sections" })).toBeVisible();
});

test("what is typed or pasted may be very long, where pages are found and where a slot is filled", async ({ page }) => {
  const faults: string[] = [];
  page.on("pageerror", ({ message }) => faults.push(message));
  const long = "an endless tale ".repeat(500);
  await page.goto("/scratch");
  await page.getByRole("heading", { name: "Scratch" }).click();
  await page.keyboard.press("/");
  const find = page.getByPlaceholder("A page, a service, a metric…");
  await find.fill(long);
  await expect(page.getByText("Nothing of that name has been heard of")).toBeVisible();
  await find.fill("stor");
  await expect(page.getByRole("option", { name: "Store" })).toBeVisible();
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: /^window: / }).click();
  await page.keyboard.insertText(long);
  await expect(page.getByRole("option").or(page.getByText("Nothing of that name")).first()).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("heading", { name: "Scratch" })).toBeVisible();
  expect(faults).toEqual([]);
});

test("a text is copied where the browser has no clipboard for pages, or does not let them", async ({ page }) => {
  const faults: string[] = [];
  page.on("pageerror", ({ message }) => faults.push(message));
  await page.addInitScript(() => {
    Object.defineProperty(navigator, "clipboard", { value: undefined });
    // What the browser would put into its clipboard.
    document.addEventListener("copy", () => {
      document.documentElement.dataset.copied = String((document.activeElement as HTMLTextAreaElement).value);
    });
  });
  await page.goto("/services/add");
  await page
    .getByRole("button", { name: /^copy: / })
    .first()
    .click();
  await expect(page.getByRole("button", { name: /^copy: / }).first()).toHaveText("copied");
  const text = await page.locator("pre").first().textContent();
  expect(await page.evaluate(() => document.documentElement.dataset.copied)).toBe(text);
  expect(faults).toEqual([]);
  await page.evaluate(() => {
    document.execCommand = () => false;
  });
  await expect(page.getByRole("button", { name: /^copy: / }).first()).toHaveText("copy");
  await page
    .getByRole("button", { name: /^copy: / })
    .first()
    .click();
  await expect(page.getByText("mark the text")).toBeVisible();
});
