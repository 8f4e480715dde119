import { expect, type Locator, type Page, test } from "@playwright/test";
import pg from "pg";
import { formatValue } from "../../src/core/unit/format";
import { expectAccessible } from "./accessible";
import { AS_JSON, countOf, FRESH, post, publish, WEB } from "./helpers";
import { bytesOf, sampleOf, untilSampled } from "./sample";

const database = new pg.Pool({ connectionString: process.env.DATABASE_URL, max: 2 });

test.beforeAll(async () => {
  await publish({}, "as it comes");
});

test.afterAll(async () => {
  await publish({}, "nothing any more");
  await database.end();
});

/** Sends a count of one for each attribute set, a second apart, and waits until they can be drafted on. */
async function arrive(metric: string, sets: readonly Record<string, string>[]): Promise<void> {
  const began = Date.now() - sets.length * 1000;
  for (const [i, set] of sets.entries())
    expect(await post(countOf("loomery", metric, 1, began + i * 1000, set))).toBe(200);
  await untilSampled({ metric }, sets.length);
}

/** Adds a step to the lane for metrics. @returns it */
async function add(page: Page, type: string, condition: string): Promise<Locator> {
  await page.getByRole("button", { name: "add a step for metrics" }).click();
  await page.getByPlaceholder("Find a step").fill(type);
  await page
    .getByRole("option", { name: new RegExp(`^${type}`) })
    .first()
    .click();
  const step = page.getByRole("list", { name: "Steps of the lane for metrics" }).getByRole("listitem").last();
  await step.getByLabel("condition").fill(condition);
  return step;
}

const lookedAt = (page: Page) => page.getByRole("region", { name: "What people look at" });

test("series, points and bytes at a step agree with counting by hand; its values are tried; points are followed", async ({
  page,
}) => {
  const sets = Array.from({ length: 28 }, (_, i) => ({ route: `/shed/${i % 7}`, hue: i % 2 ? "red" : "blue" }));
  await arrive("knot.tied", sets);
  const sample = await sampleOf(page);
  await page.goto("/pipeline");
  const step = await add(page, "fold values", 'metric is "knot.tied"');
  await step.getByLabel("attribute", { exact: true }).fill("route");
  await expect(step).toContainText("7 values become 1");
  await expect(step).toContainText(/\/shed\/\d → \/shed\/\{id\}/);
  const { points: sampled, factor, span } = sample();
  const own = sampled.filter(({ metric }) => metric === "knot.tied");
  const minute = (amount: number) => (amount * factor * 60_000) / span;
  const bytesIn = own.reduce((sum, one) => sum + bytesOf(one), 0);
  await expect(step).toContainText(`${new Set(own.map(({ series }) => series)).size} → 2 series`);
  // Under ten there are three digits, else whole points.
  const rate = minute(own.length);
  const points = rate < 10 ? String(Number(rate.toPrecision(3))) : Math.round(rate).toLocaleString("en-GB");
  await expect(step).toContainText(`${points} →`);
  await expect(step).toContainText(`${formatValue(minute(bytesIn), "By")} →`);
  // A pattern that finds nothing says so; one with a group keeps what it found.
  await step.getByLabel("own pattern").fill("^/barn/([0-9])$");
  await step.getByRole("button", { name: /what is folded/ }).click();
  await page.getByRole("option", { name: /numbers/ }).click();
  await expect(step).toContainText(/none of its 7 values change: \/shed\/\d/);
  await step.getByLabel("own pattern").fill("^/shed/([0-9])$");
  await step.getByLabel("stands for the pattern").fill("/s$1");
  await expect(step).toContainText(/\/shed\/(\d) → \/s\1/);
  // One series, found by its words, with every point that came and what is stored.
  const follow = page.getByRole("region", { name: "Before and after" });
  await follow.getByRole("button", { name: "metric to follow" }).click();
  await page.getByPlaceholder("Find metric to follow").fill("knot.tied");
  await page.getByRole("option", { name: "knot.tied" }).click();
  await follow.getByLabel("words in their attributes").fill("SHED/3 red");
  await expect(follow).toContainText("1 of them");
  await expect(follow.getByRole("row")).toHaveCount(2);
  await follow.getByRole("button", { name: /route=\/shed\/3/ }).click();
  const mine = sets.filter(({ route, hue }) => route === "/shed/3" && hue === "red").length;
  await expect(follow.getByRole("row").last().getByRole("cell").first().getByRole("listitem")).toHaveCount(mine);
  await expect(follow.getByRole("row").last()).toContainText("route=/s3 hue=red meets others");
  await page.getByRole("region", { name: "Versions" }).getByRole("button", { name: "show" }).click();
  for (const colorScheme of ["light", "dark"] as const) {
    await page.emulateMedia({ colorScheme });
    await expectAccessible(page);
  }
  await page.getByRole("button", { name: "give it up" }).click();
});

test("a draft that takes an attribute away says which contract it breaks and which readings lose their lines", async ({
  page,
}) => {
  const attributes = [{ name: "bench", values: ["one", "two"] }];
  const body = { name: "hem.sewn", kind: "counter", unit: "{item}", service: "loomery", instances: 1, attributes };
  const saved = await fetch(`${WEB}/api/contracts`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ body, note: "agreed", based: 0 }),
  });
  expect(saved.ok).toBe(true);
  await arrive(
    "hem.sewn",
    Array.from({ length: 30 }, (_, i) => ({ bench: i % 3 ? "one" : "two" })),
  );
  await page.goto("/pipeline");
  const step = await add(page, "remove attributes", 'metric is "hem.sewn"');
  await step.getByLabel("attributes", { exact: true }).fill("bench");
  const contracts = lookedAt(page).getByRole("list", { name: "Contracts" });
  await expect(contracts).toContainText("hem.sewn breaks its contract: bench is missing");
  const attempt = async (text: string) => {
    await lookedAt(page).getByLabel("reading to try").fill(text);
    await lookedAt(page).getByRole("button", { name: "Try it" }).click();
  };
  await attempt("count off hem.sewn");
  await expect(lookedAt(page).getByRole("alert")).toContainText("✕");
  await attempt("count of hem.sewn by bench");
  await expect(lookedAt(page).getByRole("figure", { name: "count of hem.sewn by bench" })).toContainText(
    "bench is gone",
  );
  await attempt('count of hem.sewn where bench is "two"');
  await expect(lookedAt(page).getByRole("figure", { name: 'where bench is "two"' })).toContainText("will be empty");
  // They are there again after a reload, until they are left.
  await page.reload();
  const figure = lookedAt(page).getByRole("figure", { name: "count of hem.sewn by bench" });
  await expect(figure).toBeVisible();
  await figure.getByRole("button", { name: /no more/ }).click();
  await expect(figure).toHaveCount(0);
  await page.getByRole("button", { name: "give it up" }).click();
});

test("what would count twice is pointed out with how many series, however it comes about", async ({ page }) => {
  await arrive(
    "seam.closed",
    Array.from({ length: 12 }, (_, i) => ({ side: `side ${i % 4}` })),
  );
  await page.goto("/pipeline");
  const merge = await add(page, "merge series", 'metric is "seam.closed"');
  await merge.getByLabel("attributes", { exact: true }).fill("side");
  await merge.getByLabel("name of what comes out").fill("seam.all");
  await merge.getByRole("button", { name: "the originals" }).click();
  await page.getByRole("option", { name: "go on as well" }).click();
  const alert = page.getByRole("alert").filter({ hasText: "Counted twice" });
  await expect(page.getByRole("region", { name: "Metrics that change" })).toContainText("seam.all");
  await expect(alert).toHaveCount(0);
  const rename = await add(page, "rename a metric", 'metric is "seam.all"');
  await rename.getByLabel("new name of the metric").fill("seam.closed");
  await expect(alert).toContainText("4 series of seam.closed");
  await page.getByRole("button", { name: "the originals" }).click();
  await page.getByRole("option", { name: "go no further" }).click();
  await expect(alert).toHaveCount(0);
  await page.getByRole("button", { name: "give it up" }).click();
});

test("prices are the team's: set in one browser, used in another", async ({ page, browser }) => {
  await arrive("button.sewn", [{ size: "small" }, { size: "large" }]);
  await page.goto("/pipeline");
  const price = page.getByLabel("price of a series a month");
  await price.fill("nothing much");
  await price.press("Enter");
  await expect(price).toHaveValue("0.02");
  await price.fill("0.5");
  await price.press("Enter");
  await page.getByLabel("currency").fill("crowns");
  await page.getByLabel("currency").press("Enter");
  const other = await (await browser.newContext()).newPage();
  await other.goto(`${WEB}/pipeline`);
  await expect(other.getByLabel("price of a series a month")).toHaveValue("0.5");
  await expect(other.getByRole("region", { name: "What it does" })).toContainText(/[\d,]+\.\d\d crowns a month/);
  await other.context().close();
  const usual = await fetch(`${WEB}/api/pipeline/price`, {
    method: "PUT",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ series: 0.02, currency: "" }),
  });
  expect(usual.ok).toBe(true);
  const refused = await fetch(`${WEB}/api/pipeline/price`, {
    method: "PUT",
    ...AS_JSON,
    body: JSON.stringify({ series: -1 }),
  });
  expect(refused.status).toBe(400);
});

test("two versions are compared line by line, and the draft with what is live", async ({ page }) => {
  await publish({ metrics: [{ id: "noise", type: "drop", where: 'metric is "noise.made"' }] }, "less noise");
  await publish({ metrics: [{ id: "noise", type: "drop", where: 'metric is "din.made"' }] }, "less din");
  await page.goto("/pipeline");
  const versions = page.getByRole("region", { name: "Versions" });
  await versions.getByRole("button", { name: "show" }).click();
  await expect(versions).toContainText('− where: metric is "noise.made"');
  await expect(versions).toContainText('+ where: metric is "din.made"');
  await page.getByRole("button", { name: "switch off" }).first().click();
  await expect(versions).toContainText("line by line what changes from");
  await versions.getByRole("button", { name: "second version" }).click();
  await page.getByRole("option", { name: /the draft/ }).click();
  await versions.getByRole("button", { name: "first version" }).click();
  await page.getByRole("option", { name: /less din/ }).click();
  await expect(versions).toContainText("+ on: false");
  await expect(versions).not.toContainText("noise.made");
  await page.getByRole("button", { name: "give it up" }).click();
  await publish({}, "as it comes");
});

test("what made series grow is what counting by hand gives, on random series of releases old and new", async ({
  page,
}) => {
  const HOUR = 3600_000;
  const attribute = ([key, stringValue]: [string, string]) => ({ key, value: { stringValue } });
  // Whether an instance was there an hour and a half ago, and is there now.
  const instances = [
    { release: "1.0.0", id: "gone", was: true, is: false },
    { release: "1.0.0", id: "stays", was: true, is: true },
    { release: "1.1.0", id: "came", was: false, is: true },
  ];
  const all = instances.flatMap((instance) =>
    Array.from({ length: 300 }, (_, i) => ({
      instance,
      attributes: { yarn: String(i), dye: `dye ${Math.floor(Math.random() * 5)}` },
      old: instance.was && Math.random() < 0.6,
    })),
  );
  const nanos = `${Date.now()}000000`;
  expect(
    await post({
      resourceMetrics: instances.map((instance) => ({
        resource: {
          attributes: Object.entries({
            "service.name": "dyeworks",
            "service.version": instance.release,
            "service.instance.id": instance.id,
          }).map(attribute),
        },
        scopeMetrics: [
          {
            metrics: [
              {
                name: "yarn.dyed",
                gauge: {
                  dataPoints: all
                    .filter((one) => one.instance === instance)
                    .map(({ attributes }) => ({
                      asInt: "1",
                      timeUnixNano: nanos,
                      attributes: Object.entries(attributes).map(attribute),
                    })),
                },
              },
            ],
          },
        ],
      })),
    }),
  ).toBe(200);
  const heard = async () =>
    (
      await database.query(
        "SELECT 1 FROM activity h JOIN resource r ON r.id = h.resource_id WHERE r.service = 'dyeworks'",
      )
    ).rowCount;
  await expect.poll(heard).toBe(3);
  // As if it had been so: when series and instances were first and last heard.
  const then = Date.now() - 1.5 * HOUR;
  for (const { id, was, is } of instances)
    await database.query(
      `UPDATE activity h SET first_at = $2, last_at = $3 FROM resource r
       WHERE r.id = h.resource_id AND r.service = 'dyeworks' AND r.instance = $1`,
      [id, was ? then : Date.now(), is ? Date.now() : Date.now() - HOUR - 60_000],
    );
  for (const { instance, attributes, old } of all)
    if (old)
      await database.query(
        `UPDATE series s SET first_at = $3 FROM resource r, metric m
         WHERE r.id = s.resource_id AND m.id = s.metric_id AND m.name = 'yarn.dyed' AND r.instance = $1 AND s.attributes = $2`,
        [instance.id, JSON.stringify(attributes), then],
      );
  const { metrics } = (await (await fetch(`${WEB}/api/pipeline/growth?back=${HOUR}`, FRESH)).json()) as {
    metrics: {
      metric: string;
      now: number;
      before: number;
      releases: { release: string; now: number; before: number }[];
      attributes: { name: string; values: number; examples: { value: string; series: number }[] }[];
    }[];
  };
  const grown = metrics.find(({ metric }) => metric === "yarn.dyed")!;
  const count = (test: (one: (typeof all)[number]) => boolean) => all.filter(test).length;
  expect(grown).toMatchObject({ now: count(({ instance }) => instance.is), before: count(({ old }) => old) });
  for (const { release, now, before } of grown.releases) {
    expect(now).toBe(count(({ instance }) => instance.is && instance.release === release));
    expect(before).toBe(count(({ instance, old }) => old && instance.release === release));
  }
  expect(grown.releases[0].release).toBe("1.1.0");
  for (const key of ["yarn", "dye"] as const) {
    const known = new Set(all.filter(({ old }) => old).map(({ attributes }) => attributes[key]));
    const fresh = all.filter(({ instance, attributes }) => instance.is && !known.has(attributes[key]));
    const told = grown.attributes.find(({ name }) => name === key);
    expect(told?.values ?? 0).toBe(new Set(fresh.map(({ attributes }) => attributes[key])).size);
    for (const { value, series } of told?.examples ?? [])
      expect(series).toBe(fresh.filter(({ attributes }) => attributes[key] === value).length);
  }
  const refused = await fetch(`${WEB}/api/pipeline/growth?back=5`);
  expect(refused.status).toBe(400);
  const counted = async () =>
    (await database.query("SELECT series_now::int AS now FROM metric_use WHERE name = 'yarn.dyed'")).rows[0]?.now;
  await expect.poll(counted, { timeout: 60_000 }).toBe(600);
  await page.goto("/pipeline");
  const panel = page.getByRole("region", { name: "Where the series come from" });
  await panel.getByRole("button", { name: "how far back" }).click();
  await page.getByRole("option", { name: "an hour" }).click();
  await expect(panel.getByRole("row", { name: /yarn\.dyed/ })).toContainText("dyeworks 1.1.0 +300");
});
