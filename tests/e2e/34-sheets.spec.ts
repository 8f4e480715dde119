import { execFile } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { promisify } from "node:util";
import { expect, type Locator, type Page, test } from "@playwright/test";
import type { Sheet } from "../../src/core/sheet/sheet";
import { expectAccessible } from "./accessible";
import { countOf, post, WEB } from "./helpers";
import { enterOn, tabTo } from "./keyboard";

/** Sheets as people make and read them. What is counted was sent here, and worked out by hand. */

const MINUTE = 60_000;
/** The whole minute before which everything was filled. */
const NOON = Math.floor(Date.now() / MINUTE) * MINUTE - 5 * MINUTE;
const WINDOW = `from=${NOON - 10 * MINUTE}&to=${NOON}`;

/** Baskets by depot, kind and crate: [depot, kind, crate, baskets]. */
const BASKETS: readonly [string, string, string, number][] = [
  ["Brindle", "pears", "N-1", 30],
  ["Brindle", "plums", "N-2", 10],
  ["Candlewick", "pears", "S-1", 40],
  ["Marrow Quay", "plums", "S-2", 15],
  ["Marrow Quay", "quinces", "S-10", 5],
];

test.describe.configure({ mode: "serial" });

test.beforeAll(async () => {
  for (const [depot, kind, crate, baskets] of BASKETS)
    expect(await post(countOf("orchard", "basket.filled", baskets, NOON - 4 * MINUTE, { depot, kind, crate }))).toBe(
      200,
    );
  // Twice as many of each an hour before.
  for (const [depot, kind, crate, baskets] of BASKETS)
    expect(
      await post(countOf("orchard", "basket.filled", 2 * baskets, NOON - 64 * MINUTE, { depot, kind, crate })),
    ).toBe(200);
});

async function call(method: string, path: string, body?: unknown): Promise<Record<string, unknown>> {
  const response = await fetch(`${WEB}/api/${path}`, {
    method,
    headers: { "Content-Type": "application/json" },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  const answer = (await response.json()) as Record<string, unknown>;
  if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${JSON.stringify(answer)}`);
  return answer;
}

const savedAs = async (id: string) =>
  (await call("GET", `sheets/${id}`)) as unknown as { sheet: Sheet; version: number; note: string };

const plateOf = (page: Page, title: string): Locator => page.getByRole("region", { name: title, exact: true });

const open = (page: Page, id: string, more = "") => page.goto(`/sheets/one?sheet=${id}&${WINDOW}${more}`);

function readings(id: string, title: string, look: object, ...texts: string[]) {
  return { id, title, holds: "readings", readings: texts.map((text) => ({ text })), look };
}

interface Measured {
  name: string;
  unit: string;
  bounds: number[];
  sum: number;
  min: number;
  max: number;
}

/** A histogram of the orchard: how many in each bucket within a minute. */
function histogramOf(
  { name, unit, bounds, ...measured }: Measured,
  counts: number[],
  at: number,
  attributes = {},
): object {
  const list = Object.entries<string>(attributes).map(([key, stringValue]) => ({ key, value: { stringValue } }));
  const point = {
    attributes: list,
    startTimeUnixNano: `${at - MINUTE}000000`,
    timeUnixNano: `${at}000000`,
    explicitBounds: bounds,
    bucketCounts: counts.map(String),
    count: String(counts.reduce((sum, count) => sum + count, 0)),
    ...measured,
  };
  const histogram = { aggregationTemporality: 1, dataPoints: [point] };
  const resource = { attributes: [{ key: "service.name", value: { stringValue: "orchard" } }] };
  return { resourceMetrics: [{ resource, scopeMetrics: [{ metrics: [{ name, unit, histogram }] }] }] };
}

test("each way to look says what was sent", async ({ page }) => {
  const by = "count of basket.filled by depot";
  await call("POST", "sheets", {
    id: "orchard-looks",
    note: "every way",
    sheet: {
      name: "Orchard looks",
      bands: [
        {
          id: "one",
          title: "Amounts",
          plates: [
            readings("n", "All", { as: "number", against: "1h", good: "up" }, "count of basket.filled"),
            readings("s", "Parts", { as: "shares", top: 2 }, by),
            readings(
              "b",
              "Bars",
              { as: "bars", top: 2, rest: true, thresholds: [{ at: "39", word: "full", wrong: "above" }] },
              by,
            ),
          ],
        },
        {
          id: "two",
          title: "Rows",
          plates: [
            readings(
              "t",
              "Table",
              { as: "table", sums: true },
              'count of basket.filled by depot, kind as "baskets"',
              'count of basket.filled by depot as "of the depot"',
            ),
            readings("l", "Lines", { as: "lines" }, `${by} every 1m`),
            readings("st", "Stacked", { as: "stacked" }, `${by} every 1m`),
            readings("bt", "Bars over time", { as: "bars", over: "time" }, `${by} every 1m`),
          ],
        },
        {
          id: "three",
          title: "Words",
          plates: [{ id: "w", title: "Note", holds: "note", note: "**Pick** by noon: [Scratch](/scratch)" }],
        },
      ],
    },
  });
  await open(page, "orchard-looks");
  const all = plateOf(page, "All");
  await expect(all).toContainText("100");
  // 100 now, 200 in the same minutes an hour before.
  await expect(all).toContainText("▼ 50 % less than an hour before, worse");
  const rows = async (title: string) =>
    (await plateOf(page, title).getByRole("row").allTextContents()).map((text) => text.replace(/\s+/g, " ").trim());
  await expect(plateOf(page, "Parts").getByRole("row")).toHaveCount(3);
  await expect
    .poll(() => rows("Parts"))
    .toEqual(["Brindle40 %40 item", "Candlewick40 %40 item", "the rest20 %20 item"]);
  await expect
    .poll(() => rows("Bars"))
    .toEqual(["Brindle40 item ✕ full", "Candlewick40 item ✕ full", "the rest20 item"]);
  await expect
    .poll(() => rows("Table"))
    .toEqual([
      "depotkindbaskets ↓of the depot",
      "Candlewickpears40 item40 item",
      "Brindlepears30 item40 item",
      "Marrow Quayplums15 item20 item",
      "Brindleplums10 item40 item",
      "Marrow Quayquinces5 item20 item",
      "all together100 item100 item",
    ]);
  await plateOf(page, "Table").getByRole("button", { name: "kind" }).click();
  await expect(plateOf(page, "Table").getByRole("row").nth(1)).toContainText("Brindlepears");
  for (const title of ["Lines", "Stacked", "Bars over time"]) {
    const plate = plateOf(page, title);
    await plate.hover();
    await plate.getByRole("button", { name: "as a table" }).click();
    const filled = plate.getByRole("row").filter({ hasText: "40 item" });
    await expect(filled).toHaveCount(1);
    expect((await filled.textContent())!.replace(/^.*\d\d:\d\d:\d\d/, "")).toBe("40 item40 item20 item");
  }
  await expect(plateOf(page, "Note").locator("strong")).toHaveText("Pick");
  await expectAccessible(page);
});

test("a spread is seen as a heat strip and as a distribution, with the counts that were sent", async ({ page }) => {
  const weights = { name: "crate.weight", unit: "g", bounds: [100, 200, 400], sum: 1500, min: 50, max: 400 };
  const sent = await post(histogramOf(weights, [1, 4, 3, 0], NOON - 2 * MINUTE));
  expect(sent).toBe(200);
  await call("POST", "sheets", {
    id: "weights",
    note: "n",
    sheet: {
      name: "Weights",
      bands: [
        {
          id: "b",
          plates: [
            readings("h", "Over time", { as: "heat" }, "spread of crate.weight every 1m"),
            readings("d", "In all", { as: "distribution" }, "spread of crate.weight"),
            readings("x", "No spread", { as: "heat" }, "count of crate.weight"),
          ],
        },
      ],
    },
  });
  await open(page, "weights");
  const rows = async (title: string) =>
    (await plateOf(page, title).getByRole("row").allTextContents()).map((text) => text.replace(/\s+/g, " ").trim());
  await expect
    .poll(() => rows("In all"))
    .toEqual(["50 g to 100 g1 12.5 %", "100 g to 200 g4 50 %", "200 g to 400 g3 37.5 %"]);
  const strip = plateOf(page, "Over time");
  await expect(strip.getByRole("img", { name: /8 values between 50 g and 400 g/ })).toBeVisible();
  await strip.hover();
  await strip.getByRole("button", { name: "as a table" }).click();
  await expect(strip.getByRole("row").filter({ hasText: "143" })).toHaveCount(1);
  await expect(plateOf(page, "No spread")).toContainText("This way needs a spread");
  await expectAccessible(page);
});

test("a value holds the sheet to it, or is left out, in the sentence and in the address", async ({ page }) => {
  await open(page, "orchard-looks");
  await plateOf(page, "Bars").getByRole("button", { name: "Brindle" }).click();
  await page
    .getByRole("dialog", { name: "What to do with this value" })
    .getByRole("button", { name: "hold the sheet to it" })
    .click();
  await expect(plateOf(page, "All")).toContainText("40");
  await expect(page).toHaveURL(/only\.depot=Brindle/);
  await expect(plateOf(page, "Table").getByRole("row")).toHaveCount(4);
  await page.getByRole("button", { name: /only depot Brindle: take this out again/ }).click();
  await expect(plateOf(page, "Table").getByRole("row")).toHaveCount(7);
  await plateOf(page, "Table").getByRole("button", { name: "pears" }).first().click();
  await page
    .getByRole("dialog", { name: "What to do with this value" })
    .getByRole("button", { name: "leave it out" })
    .click();
  await expect(plateOf(page, "All")).toContainText("30");
  await page.reload();
  await expect(plateOf(page, "All")).toContainText("30");
  await page.goBack();
  await expect(plateOf(page, "All")).toContainText("100");
});

/** Somebody at a sheet: with a pointer, or with nothing but keys. */
interface Hands {
  press: (page: Page, target: Locator) => Promise<void>;
  write: (page: Page, target: Locator, text: string) => Promise<void>;
  /** Chooses in a slot what a text finds. */
  choose: (page: Page, slot: Locator, text: string) => Promise<void>;
  /** Moves a plate behind the one after it. */
  moveOn: (page: Page, plate: Locator, next: Locator) => Promise<void>;
}

const MOUSE: Hands = {
  press: (_, target) => target.click(),
  write: async (page, target, text) => {
    await target.click();
    await page.keyboard.press("ControlOrMeta+a");
    await page.keyboard.type(text);
  },
  choose: async (page, slot, text) => {
    await slot.click();
    await page.getByRole("option", { name: text }).first().click();
  },
  moveOn: async (page, plate, next) => {
    await plate.locator("[data-handle]").hover();
    await page.mouse.down();
    const box = (await next.boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + 60, { steps: 8 });
    // The places to land at stand beside the plates, which make room for them.
    const after = (await next.boundingBox())!;
    await page.mouse.move(after.x + after.width + 20, after.y + 60, { steps: 8 });
    await page.mouse.up();
  },
};

const KEYS: Hands = {
  press: (page, target) => enterOn(page, target, 300),
  write: async (page, target, text) => {
    await tabTo(page, target, 300);
    await page.keyboard.press("ControlOrMeta+a");
    await page.keyboard.type(text);
  },
  choose: async (page, slot, text) => {
    await enterOn(page, slot, 300);
    await page.keyboard.type(text);
    await page.keyboard.press("Enter");
  },
  moveOn: async (page, plate) => {
    await tabTo(page, plate.locator("[data-handle]"), 300);
    await page.keyboard.press("ArrowRight");
  },
};

/** A sheet from nothing: three picks, of which one is cut out by a pattern and one depends on another, and eight plates. */
async function build(page: Page, name: string, { press, write, choose, moveOn }: Hands): Promise<string> {
  const button = (named: string | RegExp, exact = true) => page.getByRole("button", { name: named, exact }).first();
  await page.goto(`/sheets?${WINDOW}`);
  await press(page, button("New sheet"));
  await write(page, page.getByLabel("its name"), name);
  await press(page, button("Make it"));
  await expect(page.getByRole("heading", { name, level: 1 })).toBeVisible();
  await press(page, button("Edit"));
  await press(page, button("Add a band"));
  await write(page, page.getByLabel("title of the band"), "Baskets");

  await press(page, button("Add a pick"));
  const dialog = page.getByRole("dialog", { name: "Picks" });
  const picks: [string, string, { where?: string; pattern?: string }][] = [
    ["depot", "depot", {}],
    ["kind", "kind", { where: "depot is <depot>" }],
    ["side", "crate", { pattern: "^([A-Z])-" }],
  ];
  for (const [i, [called, attribute, { where, pattern }]] of picks.entries()) {
    const inDialog = (named: string) => dialog.getByRole("button", { name: named, exact: true });
    await press(page, inDialog("Add a pick"));
    const part = dialog.getByRole("group").nth(i);
    await write(page, part.getByLabel("called in readings"), called);
    await page.keyboard.press("Enter");
    await write(page, part.getByLabel("in the sentence"), called);
    await choose(page, part.getByRole("button", { name: /^metric of the pick/ }), "basket.filled");
    await choose(page, part.getByRole("button", { name: /^attribute of the pick/ }), attribute);
    if (where) await write(page, part.getByLabel(/^where \(/), where);
    if (pattern) await write(page, part.getByLabel(/^cut out by a pattern/), pattern);
  }
  await expect(dialog.getByText("2 values: N, S")).toBeVisible();
  await press(page, dialog.getByRole("button", { name: "Done", exact: true }));

  const test = "where depot is <depot> and kind is <kind> and crate starts with <side>";
  for (const text of [
    `count of basket.filled ${test}`,
    `count of basket.filled ${test} by depot`,
    `rate of basket.filled ${test} by kind`,
  ]) {
    await press(page, button("add a plate"));
    await write(page, page.getByLabel("a reading", { exact: true }), text);
    await page.keyboard.press("Enter");
    const editor = page.getByRole("region", { name: /^Edit/ });
    await write(page, editor.getByLabel(/^title/), text.includes("by") ? text.split(" by ")[1] : "all");
    await press(page, editor.getByRole("button", { name: "Done", exact: true }));
  }
  await press(page, page.getByRole("button", { name: 'copy the plate "kind"' }));
  await press(page, button("Add a band"));
  await press(page, button("add a plate"));
  await press(page, page.getByRole("button", { name: "Add a note" }));
  const editor = page.getByRole("region", { name: /^Edit/ });
  await write(page, editor.getByLabel(/^the note/), "Look at <depot> first.");
  await press(page, editor.getByRole("button", { name: "Done", exact: true }));
  for (let i = 0; i < 3; i++) await press(page, page.getByRole("button", { name: "copy a note" }).first());
  const plates = page.locator("[data-plate]");
  await expect(plates).toHaveCount(8);
  await moveOn(page, plates.nth(0), plates.nth(1));
  await expect(plates.nth(1)).toContainText("all");
  await press(page, page.getByRole("button", { name: 'make the plate "depot" wider' }));
  await write(page, page.getByLabel("what changed, in a few words"), "the first of it");
  await press(page, button("Save"));
  await expect(button("version 2")).toBeVisible();
  return new URL(page.url()).searchParams.get("sheet")!;
}

/** A sheet without what is drawn by lot, and without its name. */
function bare({ name: _, ...rest }: Sheet): unknown {
  return JSON.parse(JSON.stringify(rest, (key, value: unknown) => (key === "id" ? "" : value)));
}

test("a sheet is built from nothing by mouse, and again by keyboard alone: both are the same", async ({ page }) => {
  const mouse = (await savedAs(await build(page, "By mouse", MOUSE))).sheet;
  expect(mouse.picks.map(({ name }) => name)).toEqual(["depot", "kind", "side"]);
  expect(mouse.bands.map(({ plates }) => plates.length)).toEqual([4, 4]);
  expect(mouse.bands[0].plates.map(({ title, width }) => [title, width])).toEqual([
    ["depot", 3],
    ["all", 2],
    ["kind", 2],
    ["kind", 2],
  ]);
  const keyboard = (await savedAs(await build(page, "By keyboard", KEYS))).sheet;
  expect(bare(keyboard)).toEqual(bare(mouse));
});

test("picks follow each other, and stand in the address", async ({ page }) => {
  await open(page, "by-mouse");
  const all = plateOf(page, "all");
  await expect(all).toContainText("100");
  await page.getByRole("button", { name: /^depot: / }).click();
  await page.getByRole("option", { name: /^Marrow Quay/ }).click();
  await page.keyboard.press("Escape");
  await expect(all).toContainText("20");
  // What can be picked of the kinds are those of the depot.
  await page.getByRole("button", { name: /^kind: / }).click();
  await expect(page.getByRole("option")).toHaveText([/any/, /plums/, /quinces/]);
  await page.getByRole("option", { name: /^plums/ }).click();
  await page.keyboard.press("Escape");
  await expect(all).toContainText("15");
  await expect(page).toHaveURL(/pick\.depot=Marrow\+Quay/);
  await expect(page.locator("[data-plate]").filter({ hasText: "Look at Marrow Quay first." })).toHaveCount(4);
  await page.reload();
  await expect(all).toContainText("15");
});

test("twenty changes are undone and done again; a draft survives its tab; a version comes back", async ({ page }) => {
  await open(page, "by-keyboard");
  const before = (await savedAs("by-keyboard")).sheet;
  await page.getByRole("button", { name: "Edit", exact: true }).click();
  const wider = page.getByRole("button", { name: /^make the plate "all" wider/ });
  const narrower = page.getByRole("button", { name: /^make the plate "all" narrower/ });
  for (let i = 0; i < 10; i++) {
    await wider.click();
    await narrower.click();
  }
  await expect(page.getByText(/^20 changes/)).toBeVisible();
  await page.getByRole("button", { name: 'take the plate "all" out' }).click();
  await expect(page.locator("[data-plate]")).toHaveCount(7);
  // Another page, before the last change was kept, and back: nothing is lost.
  const rung = page.getByRole("navigation", { name: "Sections" }).getByRole("link", { name: /^Sheets/ });
  await rung.click();
  const row = page.getByRole("row", { name: /By keyboard/ });
  await expect(row).toContainText("you have changes");
  await row.getByRole("link", { name: "By keyboard" }).click();
  await page.getByRole("button", { name: "Go on" }).click();
  await expect(page.locator("[data-plate]")).toHaveCount(7);
  await expect(page.getByText("21 changes, kept as a draft")).toBeVisible();
  await expectAccessible(page);

  await page.goto(`/sheets?${WINDOW}`);
  await expect(row).toContainText("you have changes");
  await open(page, "by-keyboard");
  await expect(page.locator("[data-plate]")).toHaveCount(8);
  await page.getByRole("button", { name: "Go on" }).click();
  await expect(page.locator("[data-plate]")).toHaveCount(7);
  await page.getByRole("heading", { level: 1 }).click();
  for (let i = 0; i < 21; i++) await page.keyboard.press("ControlOrMeta+z");
  await expect(page.locator("[data-plate]")).toHaveCount(8);
  await expect(page.getByRole("button", { name: "Undo", exact: true })).toBeDisabled();
  for (let i = 0; i < 21; i++) await page.keyboard.press("ControlOrMeta+Shift+z");
  await expect(page.locator("[data-plate]")).toHaveCount(7);
  await page.getByLabel("what changed, in a few words").fill("without all");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByRole("button", { name: "version 3" })).toBeVisible();
  expect((await savedAs("by-keyboard")).sheet).not.toEqual(before);

  await page.getByRole("button", { name: "Edit", exact: true }).click();
  await page.getByRole("button", { name: "version 3" }).click();
  const versions = page.getByRole("dialog", { name: "Versions" });
  await versions.getByRole("listitem").filter({ hasText: "the first of it" }).getByRole("button").click();
  await expect(versions).toContainText('taken out the plate "all"');
  await versions.getByRole("button", { name: "Go back to version 2" }).click();
  await page.getByLabel("what changed, in a few words").fill("all is back");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByRole("button", { name: "version 4" })).toBeVisible();
  expect((await savedAs("by-keyboard")).sheet).toEqual(before);
});

test("two people save at once: both are shown, and either is taken, plate by plate", async ({ page }) => {
  await open(page, "by-mouse");
  await page.getByRole("button", { name: "Edit", exact: true }).click();
  const { sheet, version } = await savedAs("by-mouse");
  const theirs = structuredClone(sheet);
  theirs.bands[0].plates[1].title = "everything";
  theirs.bands[0].plates[0].title = "their depots";
  await call("PUT", "sheets/by-mouse", { sheet: theirs, note: "better words", based: version });
  const first = page.locator("[data-plate]").first();
  await first.getByRole("button", { name: "edit", exact: true }).click();
  const editor = page.getByRole("region", { name: /^Edit/ });
  await editor.getByLabel(/^title/).fill("my depots");
  await editor.getByRole("button", { name: "Done", exact: true }).click();
  await page.getByLabel("what changed, in a few words").fill("my words");
  await page.getByRole("button", { name: "Save" }).click();
  const collision = page.getByRole("alert").filter({ hasText: "meanwhile: better words" });
  await expect(collision).toContainText("my depots: count of basket.filled");
  await collision.getByRole("radio").first().check();
  await collision.getByRole("button", { name: "Bring both together" }).click();
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByRole("button", { name: `version ${version + 2}` })).toBeVisible();
  const both = (await savedAs("by-mouse")).sheet.bands[0].plates.map(({ title }) => title);
  expect(both.slice(0, 2)).toEqual(["my depots", "everything"]);
});

test("a reading is kept from Scratch by a key; a sheet is found by what it reads, thrown away, and comes back", async ({
  page,
}) => {
  await page.goto(`/scratch?${WINDOW}&reading=${encodeURIComponent("rate of basket.filled by crate")}`);
  await expect(page.getByRole("heading", { name: "5 series" })).toBeVisible();
  await page.getByRole("heading", { name: "Scratch" }).click();
  await page.keyboard.press("k");
  const dialog = page.getByRole("dialog", { name: "Keep on a sheet" });
  await dialog.getByLabel("its title there").fill("By crate");
  await dialog.getByRole("button", { name: /^the sheet/ }).click();
  await page.getByRole("option", { name: "a new sheet" }).click();
  await dialog.getByLabel("the name of the sheet").fill("Crates");
  await dialog.getByRole("button", { name: "Keep it" }).click();
  await dialog.getByRole("link", { name: "Crates" }).click();
  await expect(plateOf(page, "By crate")).toBeVisible();

  await page.goto(`/sheets?${WINDOW}`);
  await expectAccessible(page);
  await page.getByPlaceholder(/name, purpose/).fill("basket crate");
  const row = page.getByRole("row", { name: /Crates/ });
  await expect(row).toBeVisible();
  await row.getByRole("button", { name: "keep Crates at hand" }).click();
  await expect(row.getByRole("button", { name: "keep Crates at hand" })).toHaveAttribute("aria-pressed", "true");
  await row.getByRole("button", { name: "throw Crates away" }).click();
  await row.getByRole("button", { name: "Throw it away" }).click();
  await expect(row).toHaveCount(0);
  await page.getByText(/thrown away; it comes back/).click();
  await page.getByRole("button", { name: "take it back" }).click();
  await expect(row).toBeVisible();
});

test("a metric that was renamed: the plate says so, and all sheets are put right in one step", async ({ page }) => {
  // Nobody ever sent it under this name; what arrives is called nearly so.
  const sheet = (name: string) => ({
    name,
    bands: [{ id: "b", title: "", plates: [readings("p", "Filled", { as: "lines" }, "rate of basket.fill by depot")] }],
  });
  await call("POST", "sheets", { id: "broken-one", note: "n", sheet: sheet("Broken one") });
  await call("POST", "sheets", { id: "broken-two", note: "n", sheet: sheet("Broken two") });
  const contract = { name: "basket.fill", kind: "counter", unit: "{basket}", attributes: [{ name: "depot" }] };
  await call("POST", "contracts", { body: contract, note: "what fills", based: 0 });
  await open(page, "broken-one");
  const plate = plateOf(page, "Filled");
  await expect(plate).toContainText("no metric named basket.fill has arrived");
  await plate.getByRole("button", { name: "basket.filled" }).click();
  const dialog = page.getByRole("dialog", { name: "Repair" });
  await expect(dialog).toContainText("− rate of basket.fill by depot");
  await expect(dialog).toContainText("+ rate of basket.filled by depot");
  await expect(dialog.getByRole("heading", { level: 3 })).toHaveText(["Broken one", "Broken two", "Contracts"]);
  await expect(dialog).toContainText("basket.fill goes on as basket.filled");
  await dialog.getByRole("button", { name: "Put it right on all of them" }).click();
  await expect(dialog).toContainText("2 sheets and 1 contract have a version more");
  await page.keyboard.press("Escape");
  await expect(plate.getByRole("slider")).toBeVisible();
  for (const id of ["broken-one", "broken-two"])
    expect(await savedAs(id)).toMatchObject({ version: 2, note: "basket.fill became basket.filled" });
  const { contracts } = (await call("GET", "contracts")) as { contracts: { name: string; body: object }[] };
  expect(contracts.filter(({ name }) => name.startsWith("basket."))).toMatchObject([
    { name: "basket.filled", body: { kind: "counter", attributes: [{ name: "depot" }] } },
  ]);
  await call("DELETE", "contracts", { name: "basket.filled", note: "only tried" });
});

test("an attribute that was renamed is put right where the plate finds nothing", async ({ page }) => {
  const reading = 'count of basket.filled where depott is "Brindle" by kind';
  await call("POST", "sheets", {
    id: "old-attribute",
    note: "n",
    sheet: {
      name: "Old attribute",
      bands: [{ id: "b", title: "", plates: [readings("p", "Filled", { as: "table" }, reading)] }],
    },
  });
  await open(page, "old-attribute");
  const plate = plateOf(page, "Filled");
  await expect(plate).toContainText("none of its series has an attribute depott");
  await plate.getByRole("button", { name: "depot", exact: true }).click();
  const dialog = page.getByRole("dialog", { name: "Repair" });
  await expect(dialog).toContainText('+ count of basket.filled where depot is "Brindle" by kind');
  await dialog.getByRole("button", { name: "Put it right there" }).click();
  await expect(dialog).toContainText("1 sheet has a version more");
  await page.keyboard.press("Escape");
  // 30 baskets of pears and 10 of plums from Brindle.
  await expect(plate.getByRole("row").nth(1)).toContainText("pears30");
  await expect(plate.getByRole("row").nth(2)).toContainText("plums10");
});

test("a ready sheet is filled in for the service at hand, kept as the team's own, and changed", async ({ page }) => {
  const took = { name: "http.server.request.duration", unit: "s", bounds: [0.1, 0.2, 0.4], sum: 1, min: 0.1, max: 0.4 };
  const calls = (route: string, counts: number[]) =>
    post(histogramOf(took, counts, NOON - 4 * MINUTE, { "http.route": route }));
  // 8 calls of 100 ms and 2 of up to 400 ms; 6 of the other.
  expect(await calls("/baskets", [8, 0, 2, 0])).toBe(200);
  expect(await calls("/crates", [6, 0, 0, 0])).toBe(200);
  await page.goto(`/sheets?${WINDOW}&service=orchard`);
  const offers = page.getByRole("region", { name: "Ready sheets" });
  await offers.getByRole("link", { name: "Calls", exact: true }).click();
  await expect(page.getByRole("heading", { level: 1, name: "Calls of orchard" })).toBeVisible();
  await expectAccessible(page);
  // 16 calls in ten minutes, two of which took longer than 200 ms.
  await expect(plateOf(page, "Calls a second")).toContainText("0.0267");
  const routes = plateOf(page, "How many, by route");
  await expect(routes).toContainText("/baskets");
  await page.getByRole("button", { name: "Keep it as ours" }).click();
  await expect(page).toHaveURL(/sheet=calls-of-orchard/);
  await expect(page.getByText("version 1", { exact: true })).toBeVisible();
  const { sheet } = await savedAs("calls-of-orchard");
  expect(sheet.picks.map(({ name, preset }) => [name, preset])).toEqual([["service", ["orchard"]]]);
  await page.keyboard.press("e");
  await expect(page.getByRole("button", { name: /^Move the plate "How many, by route"/ })).toBeVisible();
});

test("a sheet is exported, thrown away, and imported elsewhere with what is missing mapped", async ({ page }) => {
  await open(page, "orchard-looks");
  const [file] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "export" }).click(),
  ]);
  const text = readFileSync((await file.path())!, "utf8");
  expect(JSON.parse(text)).toMatchObject({ format: "tin-ladder sheets", version: 1 });
  // Elsewhere the same is called otherwise.
  const elsewhere = text.replaceAll("basket.filled", "crate.stacked").replaceAll('"orchard-looks"', '"from-elsewhere"');
  await page.goto(`/sheets?${WINDOW}`);
  await page.getByRole("button", { name: "Import" }).click();
  const dialog = page.getByRole("dialog", { name: "Import sheets" });
  const give = (content: string) =>
    dialog
      .getByLabel("a file of sheets")
      .setInputFiles({ name: "s.json", mimeType: "application/json", buffer: Buffer.from(content) });
  await give("{}");
  await expect(dialog.getByRole("alert")).toContainText("a file of sheets says");
  await give(elsewhere);
  await dialog.getByRole("button", { name: /^what stands for crate.stacked/ }).click();
  await page.getByPlaceholder(/what stands for/).fill("basket.filled");
  await page.keyboard.press("Enter");
  await expect(dialog.getByRole("button", { name: /^what stands for crate.stacked/ })).toHaveText(
    "read basket.filled instead",
  );
  await dialog.getByRole("button", { name: "Bring it in" }).click();
  await expect(dialog).toContainText("1 sheet is here now, as from-elsewhere");
  expect((await savedAs("from-elsewhere")).sheet.bands[0].plates[0]).toMatchObject({
    readings: [{ text: "count of basket.filled" }],
  });
  await open(page, "from-elsewhere");
  await expect(plateOf(page, "All")).toContainText("100");
});

test("a link shows one sheet without an account, and nothing once it was taken back", async ({ page, browser }) => {
  await open(page, "by-mouse", "&pick.depot=Brindle");
  await page.getByRole("button", { name: "share" }).click();
  const dialog = page.getByRole("dialog", { name: "Share" });
  await dialog.getByRole("button", { name: "Make it" }).click();
  const link = new URL((await dialog.getByRole("alert").locator("p.select-all").textContent())!);
  expect(link.searchParams.get("pick.depot")).toBe("Brindle");

  const nobody = await browser.newContext({ storageState: { cookies: [], origins: [] } });
  const guest = await nobody.newPage();
  await guest.goto(`${link.pathname}${link.search}`);
  await expect(guest.getByRole("region", { name: "everything" })).toContainText("40");
  await expectAccessible(guest);
  await guest.getByRole("button", { name: /^depot: / }).click();
  await guest.getByRole("option", { name: /^Candlewick/ }).click();
  await guest.keyboard.press("Escape");
  await expect(guest.getByRole("region", { name: "everything" })).toContainText("80");
  // Nothing else is to be had by it.
  const shared = (path: string, data: object) => guest.request.post(`/api/shared/${path}`, { data });
  const text = link.searchParams.get("link")!;
  const other = { link: text, readings: ["count of basket.filled by crate"], from: NOON - MINUTE, to: NOON };
  expect((await shared("readings", other)).status()).toBe(403);
  expect((await shared("picks", { link: text, pick: "crate" })).status()).toBe(403);
  const own = (await savedAs("by-mouse")).sheet.bands[0].plates.flatMap((plate) =>
    plate.holds === "readings" ? plate.readings.map((reading) => reading.text) : [],
  );
  const picking = (picks: object) => shared("readings", { ...other, readings: own.slice(0, 1), picks });
  expect((await picking({ depot: ["Brindle"] })).status()).toBe(200);
  expect((await picking({ depot: ["Brindle"], kind: ["plums"] })).status()).toBe(200);
  // Quinces are not in Brindle: what a pick offers follows from the others.
  expect((await picking({ depot: ["Brindle"], kind: ["quinces"] })).status()).toBe(403);
  expect((await picking({ depot: ["Atlantis"] })).status()).toBe(403);
  const offering = (depot: string) => shared("picks", { link: text, pick: "kind", picks: { depot: [depot] } });
  expect((await offering("Brindle")).status()).toBe(200);
  expect((await offering("Atlantis")).status()).toBe(403);
  expect((await guest.request.get("/api/sheets/by-mouse")).status()).toBe(401);
  await guest.goto(`/sheets/one?sheet=by-mouse`);
  await expect(guest.getByRole("heading", { name: "Sign in" })).toBeVisible();

  await dialog.getByRole("button", { name: "take it back" }).click();
  await expect(dialog.getByRole("button", { name: "take it back" })).toHaveCount(0);
  await guest.goto(`${link.pathname}${link.search}`);
  await expect(guest.getByText("This link has ended")).toBeVisible();
  expect((await shared("readings", { ...other, readings: ["rate of x"] })).status()).toBe(410);
  await nobody.close();
});

test("an earlier window is written, or dragged on the time rail, and told apart from the one in hand", async ({
  page,
}) => {
  await open(page, "orchard-looks");
  await page.getByRole("button", { name: /^an earlier window: / }).click();
  const typed = page.getByPlaceholder(/drag with Shift/);
  await typed.fill("soon");
  await expect(page.getByText("how long before: 90m, 3h, 2d, 6w")).toBeVisible();
  await typed.fill("60m");
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/against=60m/);
  await expect(plateOf(page, "All")).toContainText("▼ 50 % less than 1 hour before, worse");
  // 30 now and 60 then: said at the moment that the crosshair stands at.
  const lines = plateOf(page, "Lines").getByRole("slider");
  await lines.focus();
  const said = async () => {
    await page.keyboard.press("ArrowRight");
    return (await lines.getAttribute("aria-valuetext")) ?? "";
  };
  await expect.poll(said).toMatch(/Brindle 40 item ▼ 50 %/);

  const rail = page.getByRole("region", { name: "Time rail" });
  const window = (await rail.getByRole("slider", { name: "Start of the window" }).boundingBox())!;
  const across = async (from: number, to: number) => {
    await page.mouse.move(from, window.y + window.height / 2);
    await page.mouse.down();
    await page.mouse.move(to, window.y + window.height / 2, { steps: 4 });
    await page.mouse.up();
  };
  await page.keyboard.down("Shift");
  await across(window.x - 40, window.x - 90);
  await page.keyboard.up("Shift");
  await expect(page).toHaveURL(/against=\d+[sm]/);
  const dragged = new URL(page.url()).searchParams.get("against");
  expect(dragged).not.toBe("60m");
  const earlier = rail.getByRole("slider", { name: "The earlier window" });
  await earlier.focus();
  await page.keyboard.press("ArrowLeft");
  await expect(page).not.toHaveURL(new RegExp(`against=${dragged}(&|$)`));
  // Dragged back onto the window in hand, it is none.
  const box = (await earlier.boundingBox())!;
  await across(box.x + box.width / 2, box.x + box.width / 2 + 2000);
  await expect(page).not.toHaveURL(/against=/);
  await expect(earlier).toHaveCount(0);
});

test("a live sheet keeps what it shows until the next answer is there, and awaits one that takes longer than its refresh", async ({
  page,
}) => {
  const now = Date.now();
  for (let ago = 1; ago < 6; ago++)
    expect(await post(countOf("orchard of today", "ladder.moved", ago, now - ago * MINUTE))).toBe(200);
  const plates = [readings("one", "One", { as: "lines" }, "count of ladder.moved every 1m")];
  await call("POST", "sheets", { id: "moving", note: "n", sheet: { name: "Moving", bands: [{ id: "b", plates }] } });
  await page.goto("/sheets/one?sheet=moving&last=15m");
  const chart = plateOf(page, "One").locator("[data-drawn='true']");
  await expect(chart).toHaveCount(1);
  const aReading = /\/api\/readings?(\/lines)?(\?|$)/;
  const told = { asked: 0, answered: 0, givenUp: 0 };
  page.on("requestfailed", (request) => {
    if (aReading.test(request.url())) told.givenUp++;
  });
  page.on("requestfinished", (request) => {
    if (aReading.test(request.url())) told.answered++;
  });
  // Two turns of the clock of such a window.
  await page.route(aReading, async (route) => {
    told.asked++;
    await new Promise((resolve) => setTimeout(resolve, 11_000));
    await route.continue().catch(() => {});
  });
  let least = 1;
  const looking = setInterval(() => {
    chart.count().then(
      (count) => {
        least = Math.min(least, count);
      },
      () => {},
    );
  }, 100);
  await expect.poll(() => told.answered).toBeGreaterThan(1);
  await expect.poll(() => told.asked).toBeGreaterThan(2);
  clearInterval(looking);
  expect({ least, givenUp: told.givenUp }).toEqual({ least: 1, givenUp: 0 });
});

test("an open sheet draws no chart anew while nothing comes, nor where a series is pointed at: the others step back", async ({
  page,
}) => {
  // Three that reported each minute and then stopped: nothing of it will change.
  for (const depot of ["Brindle", "Candlewick", "Marrow Quay"])
    for (let ago = 9; ago > 4; ago--)
      expect(await post(countOf("orchard of old", "ladder.leant", ago, NOON - ago * MINUTE, { depot }))).toBe(200);
  const reading = "count of ladder.leant by depot every 1m";
  const plates = ["One", "Other"].map((title) => readings(title, title, { as: "lines" }, reading));
  await call("POST", "sheets", { id: "still", note: "n", sheet: { name: "Still", bands: [{ id: "b", plates }] } });
  await open(page, "still");
  const other = plateOf(page, "Other");
  const name = (plate: Locator) => plate.locator("svg text", { hasText: "Candlewick" });
  await expect(name(other)).toBeVisible();
  await expect(page.locator("main [data-drawn='true']")).toHaveCount(2);
  await page.waitForLoadState("networkidle");
  await page.evaluate(() => {
    const seen = window as unknown as { drawn: string[] };
    seen.drawn = [];
    const observer = new MutationObserver((changes) => {
      // That a series steps back is told to what is drawn of it, which stays as it is.
      for (const { type, target, attributeName } of changes.filter((one) => one.attributeName !== "data-stands"))
        seen.drawn.push(`${type} ${attributeName ?? ""} of ${(target as Element).outerHTML.slice(0, 80)}`);
    });
    for (const chart of document.querySelectorAll("[data-drawn='true'] > svg"))
      observer.observe(chart, { subtree: true, childList: true, attributes: true });
  });
  const strengths = () =>
    other.locator("path[data-line]").evaluateAll((lines) => lines.map((one) => getComputedStyle(one).strokeOpacity));
  const all = ["1", "1", "1"];
  await expect.poll(async () => (await strengths()).sort()).toEqual(all);
  await name(plateOf(page, "One")).hover();
  await expect.poll(async () => (await strengths()).sort()).toEqual(["0.25", "0.25", "1"]);
  await page.mouse.move(5, 5);
  await expect.poll(async () => (await strengths()).sort()).toEqual(all);
  // Longer than two ticks of the page's clock.
  await page.waitForTimeout(11_000);
  expect(await page.evaluate(() => (window as unknown as { drawn: string[] }).drawn)).toEqual([]);
});

test("a window that is over is asked again each minute: what is the same is not sent, and late points show", async ({
  page,
}) => {
  const to = NOON - 4 * 60 * MINUTE;
  const late = (value: number, at: number) =>
    post(countOf("orchard", "ladder.climbed", value, at, { depot: "Brindle" }));
  expect(await late(3, to - 2 * MINUTE)).toBe(200);
  const plates = ["count of ladder.climbed", "count of ladder.climbed by depot"].map((text, i) =>
    readings(`p${i}`, text, { as: "number" }, text),
  );
  await call("POST", "sheets", { id: "climbed", note: "n", sheet: { name: "Climbed", bands: [{ id: "b", plates }] } });
  await page.clock.install();
  const sent: { known: string | null; values: unknown[] }[] = [];
  await page.route("**/api/readings/lines", async (route) => {
    const { readings: asked, to: end } = route.request().postDataJSON() as {
      readings: { known: string | null }[];
      to: number;
    };
    const response = await route.fetch().catch(() => null);
    const body = await response?.text().catch(() => null);
    // The page may have asked anew meanwhile, and waits for this one no more.
    if (!response || body == null) return route.abort().catch(() => {});
    const values = body
      .trim()
      .split("\n")
      .map((line) => (JSON.parse(line) as { value: unknown }).value);
    if (end === to) sent.push({ known: asked[0].known, values });
    await route.fulfill({ response, body });
  });
  await page.goto(`/sheets/one?sheet=climbed&from=${to - 10 * MINUTE}&to=${to}`);
  const all = plateOf(page, "count of ladder.climbed");
  await expect(all.locator("p.num")).toHaveText("3item");
  /** Lets a minute go by until it was asked again. */
  const again = async () => {
    const before = sent.length;
    await page.clock.fastForward(61_000);
    await expect.poll(() => sent.length).toBeGreaterThan(before);
    return sent[sent.length - 1];
  };
  // The first answers came with the document, without a version: the next ones bring theirs.
  await again();
  let same = await again();
  // Strips that were merged meanwhile are others, and what is read from them is sent once more.
  for (let tries = 0; tries < 3 && same.values.some((value) => value !== null); tries++) same = await again();
  expect(same.known).toMatch(/^[\w-]{24}$/);
  expect(same.values).toEqual([null, null]);
  await expect(all.locator("p.num")).toHaveText("3item");
  expect(await late(4, to - 3 * MINUTE)).toBe(200);
  const changed = await again();
  expect(changed.values).not.toContain(null);
  await expect(all.locator("p.num")).toHaveText("7item");
});

test("a plate is taken as figures and as a picture", async ({ page }) => {
  await open(page, "orchard-looks");
  const table = plateOf(page, "Table");
  await table.hover();
  const [csv] = await Promise.all([page.waitForEvent("download"), table.getByRole("button", { name: "CSV" }).click()]);
  const lines = readFileSync((await csv.path())!, "utf8").split("\r\n");
  expect(lines).toContain("Marrow Quay,plums,15,20");
  expect(lines).toHaveLength(7);
  const [png] = await Promise.all([page.waitForEvent("download"), table.getByRole("button", { name: "PNG" }).click()]);
  expect(
    readFileSync((await png.path())!)
      .subarray(1, 4)
      .toString(),
  ).toBe("PNG");
  // The picture has its fonts, and the page nothing to complain of.
  const faults: string[] = [];
  page.on("console", (message) => message.type() === "error" && faults.push(message.text()));
  page.on("response", (response) => response.status() >= 400 && faults.push(response.url()));
  const [svg] = await Promise.all([page.waitForEvent("download"), table.getByRole("button", { name: "SVG" }).click()]);
  const picture = readFileSync((await svg.path())!, "utf8");
  const fonts = [...picture.matchAll(/@font-face\s*\{[^}]*?font-family:\s*["']?([^;"']+)[^}]*?url\("?([^"):]+):/g)];
  expect(fonts.map(([, family]) => family)).toEqual(
    expect.arrayContaining(["Archivo Variable", "Spline Sans Mono Variable"]),
  );
  expect(fonts.every(([, , scheme]) => scheme === "data")).toBe(true);
  expect(picture).toContain("Marrow Quay");
  expect(faults).toEqual([]);
});

test("sheets live in a repository: pulled, changed, checked, pushed", async () => {
  const folder = mkdtempSync(path.join(tmpdir(), "tin-sheets-"));
  const sheets = async (...args: string[]) => {
    const run = promisify(execFile)(process.execPath, [".build/cli.js", "sheets", ...args, folder, "--at", WEB], {
      env: { ...process.env, TIN_KEY: process.env.TIN_TEST_KEY },
    });
    return run.then(
      ({ stderr }) => ({ code: 0, said: stderr }),
      (error: { code: number; stderr: string }) => ({ code: error.code, said: error.stderr }),
    );
  };
  expect((await sheets("pull")).said).toMatch(/sheets written/);
  const file = path.join(folder, "orchard-looks.json");
  expect(readdirSync(folder)).toContain("orchard-looks.json");
  expect((await sheets("push", "--note", "again")).said).toMatch(/^0 sheets made, 0 saved, \d+ as they were/);
  const { version } = await savedAs("orchard-looks");
  writeFileSync(file, readFileSync(file, "utf8").replace('"Orchard looks"', '"Orchard, looked at"'));
  expect((await sheets("push", "--note", "another name")).said).toMatch(/^0 sheets made, 1 saved/);
  expect(await savedAs("orchard-looks")).toMatchObject({ version: version + 1, sheet: { name: "Orchard, looked at" } });
  writeFileSync(
    file,
    readFileSync(file, "utf8").replaceAll("count of basket.filled by depot, kind", "count of basket.filed by"),
  );
  const wrong = await sheets("check");
  expect(wrong.code).toBe(1);
  expect(wrong.said).toContain('the plate "Table":');
  rmSync(folder, { recursive: true });
});
