import { expect, type Locator, type Page } from "@playwright/test";

/** Pages by keyboard alone. */

/** Presses Tab until something has the focus, as somebody without a pointer does. */
export async function tabTo(page: Page, target: Locator, most = 80): Promise<void> {
  await expect(target).toBeVisible();
  for (let i = 0; i < most; i++) {
    if (await target.evaluate((element) => element === document.activeElement)) return;
    await page.keyboard.press("Tab");
  }
  throw new Error(`Tab did not lead to ${target} in ${most} steps`);
}

/** Tabs to something and presses Enter on it. */
export async function enterOn(page: Page, target: Locator, most = 80): Promise<void> {
  await tabTo(page, target, most);
  await page.keyboard.press("Enter");
}

/** Tabs to a field and types into it. */
export async function typeInto(page: Page, target: Locator, text: string): Promise<void> {
  await tabTo(page, target);
  await page.keyboard.type(text);
}
