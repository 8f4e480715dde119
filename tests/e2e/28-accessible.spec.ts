import { expect, test } from "@playwright/test";
import { PAGES } from "../../src/ui/frame/pages";
import { expectAccessible } from "./accessible";
import { isKnown, sendWithSdk } from "./helpers";

/** Every page with data, in both themes, on a narrow screen and at 200 % of 1280 by 800. */

test.beforeAll(async () => {
  if (await isKnown("kiln")) return;
  await sendWithSdk("1.0.0", "protobuf");
  await sendWithSdk("1.1.0", "json");
});

/** What a page needs to stand in its address. */
const PARTICULARS: Partial<Record<(typeof PAGES)[number]["path"], string>> = {
  "/instruments/one": "&metric=http.server.request.duration",
  "/scratch": "&reading=p95+of+http.server.request.duration+by+release",
};

for (const { name, viewport } of [
  { name: "900 by 700", viewport: { width: 900, height: 700 } },
  { name: "200 % of 1280 by 800", viewport: { width: 640, height: 400 } },
])
  for (const theme of ["tin", "soot"])
    test(`${name}, ${theme}: no page breaks WCAG 2 AA, and nothing has to be scrolled sideways`, async ({
      browser,
    }) => {
      test.setTimeout(600_000);
      const context = await browser.newContext({ viewport, baseURL: `http://127.0.0.1:${process.env.TIN_WEB_PORT}` });
      await context.addInitScript((chosen) => localStorage.setItem("theme", chosen), theme);
      const page = await context.newPage();
      for (const { path, title } of PAGES) {
        await page.goto(`${path}?service=kiln&environment=workshop&last=1h${PARTICULARS[path] ?? ""}`);
        await expect(page).toHaveTitle(`${title} · Tin Ladder`);
        await page.waitForLoadState("networkidle");
        await expect(page.locator("html")).toHaveAttribute("data-theme", theme);
        await test.step(path, async () => {
          await expectAccessible(page);
          // Charts and tables may scroll by themselves; the page does not.
          const beyond = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
          expect(beyond).toBeLessThanOrEqual(0);
        });
      }
      await context.close();
    });
