import { expect, test } from "@playwright/test";
import { isEntry, PAGES } from "../../src/ui/frame/pages";
import { expectAccessible } from "./accessible";
import { isKnown, sendWithSdk, WEB } from "./helpers";

/** Every page with data, in both themes, on a narrow screen and at 200 % of 1280 by 800. */

test.beforeAll(async () => {
  if (!(await isKnown("kiln"))) {
    await sendWithSdk("1.0.0", "protobuf");
    await sendWithSdk("1.1.0", "json");
  }
  const response = await fetch(`${WEB}/api/sheets`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ id: "kiln", note: "every way to look", sheet: SHEET }),
  });
  // There already, where these tests ran before.
  expect([201, 409]).toContain(response.status);
});

const CALLS = "http.server.request.duration";
const plate = (as: string, text: string, more = {}) => ({
  id: as,
  title: as,
  holds: "readings",
  readings: [{ text }],
  look: { as, ...more },
});

/** A sheet with a plate of every way to look, a note, and one that shows nothing. */
const SHEET = {
  name: "Kiln",
  picks: [{ name: "depot", words: "depot", source: { of: "values", attribute: "depot", metric: "pot.fired" } }],
  bands: [
    {
      id: "time",
      title: "Over time",
      plates: [
        plate("lines", `p95 of ${CALLS} by release`, { thresholds: [{ at: "500 ms", word: "slow", wrong: "above" }] }),
        plate("stacked", "rate of pot.fired where depot is <depot> by depot"),
        plate("heat", `spread of ${CALLS}`),
      ],
    },
    {
      id: "window",
      title: "In all",
      plates: [
        plate("number", "count of pot.fired", { good: "up" }),
        plate("bars", "count of pot.fired by depot", { thresholds: [{ at: "6", word: "many", wrong: "above" }] }),
        plate("shares", "count of pot.fired by depot"),
        plate("table", "count of pot.fired by depot, release", { sums: true }),
      ],
    },
    {
      id: "more",
      title: "",
      plates: [
        plate("distribution", `spread of ${CALLS} by release`),
        {
          id: "note",
          holds: "note",
          note: "# Kiln\n\n[Scratch](/scratch) and a table:\n\n| a | b |\n| - | - |\n| 1 | 2 |",
        },
        { ...plate("lines", "rate of pot.fried"), id: "nothing", title: "nothing" },
      ],
    },
  ],
};

/** What a page needs to stand in its address. */
const PARTICULARS: Partial<Record<(typeof PAGES)[number]["path"], string>> = {
  "/instruments/one": "&metric=http.server.request.duration",
  "/sheets/one": "&sheet=kiln",
  "/sheets/ready": "&ready=calls",
  "/scratch": "&reading=p95+of+http.server.request.duration+by+release",
};

/** Pages, and other forms that they take. */
const LOOKS = [
  ...PAGES.map(({ path, title }) => ({ path, title, query: PARTICULARS[path] ?? "" })),
  { path: "/services/add", title: "Add a source", query: "&way=scrape" },
  { path: "/pipeline", title: "Pipeline", query: "&lane=traces" },
];

const SCREENS = [
  { width: 900, height: 700 },
  { width: 640, height: 400 },
];

/** An hour that stands still: what moves on meanwhile is looked at for nothing. */
const to = Math.ceil(Date.now() / 1000) * 1000 + 120_000;
const HOUR = `from=${to - 3_600_000}&to=${to}`;

for (const { path, title, query } of LOOKS)
  test(`${path}${query} breaks no rule of WCAG 2 AA in either theme, and is not scrolled sideways`, async ({
    page,
  }) => {
    await page.addInitScript(() => localStorage.setItem("theme", "tin"));
    await page.goto(`${path}?service=kiln&environment=workshop&${HOUR}${query}`);
    await expect(page).toHaveTitle(`${title} · Tin Ladder`);
    await page.waitForLoadState("networkidle");
    await expect(page.getByRole("status", { name: "Reading…" })).toHaveCount(0);
    if (path === "/store" || path === "/releases" || path === "/scratch")
      await expect(page.getByRole("row").nth(1)).toBeVisible();
    for (const theme of ["tin", "soot"]) {
      // Pages for who is not signed in have no keys.
      if (theme === "soot" && isEntry(path))
        await page.evaluate(() => document.documentElement.setAttribute("data-theme", "soot"));
      else if (theme === "soot") await page.keyboard.press("t");
      await expect(page.locator("html")).toHaveAttribute("data-theme", theme);
      for (const screen of SCREENS) {
        await page.setViewportSize(screen);
        await test.step(`${theme}, ${screen.width} by ${screen.height}`, async () => {
          await expectAccessible(page, theme === "soot" ? "colours" : undefined);
          // Charts and tables may scroll by themselves; the page does not.
          const beyond = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
          expect(beyond).toBeLessThanOrEqual(0);
        });
      }
    }
  });

test("a sheet that is edited breaks no rule in either theme", async ({ page }) => {
  await page.addInitScript(() => localStorage.setItem("theme", "tin"));
  await page.goto(`/sheets/one?service=kiln&environment=workshop&${HOUR}&sheet=kiln`);
  await expect(page.getByRole("heading", { level: 1, name: "Kiln" }).first()).toBeVisible();
  await page.keyboard.press("e");
  const moves = page.getByRole("button", { name: /^Move the plate "lines"/ });
  await moves.focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("textbox", { name: "Reading" }).first()).toBeVisible();
  await expectAccessible(page);
  await page.evaluate(() => document.documentElement.setAttribute("data-theme", "soot"));
  await expectAccessible(page, "colours");
  await page.getByRole("button", { name: "Change the picks" }).click();
  await expectAccessible(page, "colours");
  await page.evaluate(() => document.documentElement.setAttribute("data-theme", "tin"));
  await expectAccessible(page);
});
