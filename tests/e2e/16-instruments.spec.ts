import { expect, test } from "@playwright/test";
import pg from "pg";
import { AS_FILE, FRESH, INTAKE, read, WEB } from "./helpers";

const attribute = ([key, stringValue]: [string, string]) => ({ key, value: { stringValue } });

/** Sends one counter with a point per attribute set, from two instances. */
async function sendSets(name: string, sets: Record<string, string>[], ms = Date.now()): Promise<void> {
  const nanos = `${ms}000000`;
  const body = {
    resourceMetrics: ["a", "b"].map((instance) => ({
      resource: {
        attributes: Object.entries({
          "service.name": "smithy",
          "service.version": "1",
          "service.instance.id": instance,
        }).map(attribute),
      },
      scopeMetrics: [
        {
          metrics: [
            {
              name,
              unit: "{nail}",
              sum: {
                aggregationTemporality: 2,
                isMonotonic: true,
                dataPoints: sets.map((set) => ({
                  asInt: "5",
                  timeUnixNano: nanos,
                  attributes: Object.entries(set).map(attribute),
                })),
              },
            },
          ],
        },
      ],
    })),
  };
  const response = await fetch(`${INTAKE}/v1/metrics`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body),
  });
  expect(response.status).toBe(200);
}

interface Share {
  name: string;
  place: string;
  distinct: number;
  without: number;
  missing: number;
}

test("cardinality is what counting by hand gives, on random attributes", async () => {
  const pick = (count: number) => String(Math.floor(Math.random() * count));
  const sets = new Map<string, Record<string, string>>();
  for (let i = 0; i < 120; i++) {
    const set = { size: pick(5), forge: pick(4), ...(Math.random() < 0.7 ? { bin: pick(9) } : {}) };
    sets.set(JSON.stringify(set), set);
  }
  const all = [...sets.values()];
  await sendSets("nail.made", all);
  const answer = async () =>
    (await (await fetch(`${WEB}/api/instruments/one?metric=nail.made`, FRESH)).json()) as {
      seriesNow: number;
      attributes: Share[];
    };
  await expect.poll(async () => (await answer()).seriesNow).toBe(all.length * 2);
  const { attributes } = await answer();
  for (const key of ["size", "forge", "bin"]) {
    const share = attributes.find(({ name }) => name === key)!;
    const left = new Set(all.map(({ [key]: _, ...rest }: Record<string, string>) => JSON.stringify(rest)));
    expect(share.without).toBe(left.size * 2);
    expect(share.distinct).toBe(new Set(all.flatMap((set: Record<string, string>) => set[key] ?? [])).size);
    expect(share.missing).toBe(all.filter((set: Record<string, string>) => set[key] === undefined).length * 2);
  }
  expect(attributes.find(({ name }) => name === "service.instance.id")!.without).toBe(all.length);
});

test("found by a value, defined as a contract, and held against it", async ({ page }) => {
  await sendSets("horseshoe.forged", [{ stable: "Candlewick mews" }]);
  await page.goto("/instruments");
  await page.getByLabel("Find instruments").fill("wick mew");
  await expect(page.getByRole("link", { name: "horseshoe.forged" })).toBeVisible();
  await page.getByRole("link", { name: "horseshoe.forged" }).click();
  await expect(page.getByRole("cell", { name: /Candlewick mews/ })).toBeVisible();
  await page.getByRole("link", { name: "make a contract of it" }).click();
  await page.getByLabel("attribute 1: expected values").fill("Tolland yard");
  await page.getByLabel("what changed, in a few words").fill("only the yard");
  await page.getByRole("button", { name: "Save the contract" }).click();
  await expect(page.getByText("Saved as version 1")).toBeVisible();
  await page.goto("/instruments/one?metric=horseshoe.forged");
  await expect(page.getByText('stable is "Candlewick mews", which the contract does not expect').first()).toBeVisible();
  const yaml = await (await fetch(`${WEB}/api/contracts/file`)).text();
  expect(yaml).toContain("name: horseshoe.forged");
  const again = await fetch(`${WEB}/api/contracts/file`, { method: "POST", ...AS_FILE, body: yaml });
  expect(await again.json()).toMatchObject({ saved: [] });
});

test("last points carry exactly the attributes that were sent, and what was received is counted", async ({ page }) => {
  const sets = [
    { "process.state": "glowing", anvil: "1" },
    { "process.state": "cooling", anvil: "1" },
  ];
  await sendSets("iron.bent", sets);
  const now = Date.now();
  const query = `metric=iron.bent&from=${now - 600_000}&to=${now + 60_000}`;
  const answer = await fetch(`${WEB}/api/instruments/latest?${query}`);
  const { points, exposition } = (await answer.json()) as {
    points: { value: number; attributes: Record<string, string>; resource: Record<string, string> }[];
    exposition: string;
  };
  const sent = ["a", "b"].flatMap((instance) =>
    sets.map((set) => JSON.stringify([instance, set.anvil, set["process.state"], 5])),
  );
  const told = points.map(({ value, attributes, resource }) =>
    JSON.stringify([resource["service.instance.id"], attributes.anvil, attributes["process.state"], value]),
  );
  expect(told.sort()).toEqual(sent.sort());
  // Series of the same instances that came half an hour ago are among those of now, but not among those that came lately.
  await sendSets("iron.bent", [{ "process.state": "forgotten", anvil: "2" }], now - 1800_000);
  const later = (await (await fetch(`${WEB}/api/instruments/latest?${query}`)).json()) as { heard: number };
  expect(later.heard).toBe(4);
  const { seriesNow } = (await (await fetch(`${WEB}/api/instruments/one?metric=iron.bent`, FRESH)).json()) as {
    seriesNow: number;
  };
  expect(seriesNow).toBe(6);
  await page.goto("/instruments/one?metric=iron.bent");
  await expect(page.getByText("6 series now (4 of them with points in the last ten minutes), 6 ever")).toBeVisible();
  const lines = exposition.split("\n").filter((line) => line.startsWith("iron_bent_total{"));
  expect(new Set(lines).size).toBe(4);
  const smiths = async () => {
    const parameters = `from=${now - 3600_000}&to=${Date.now() + 60_000}`;
    const { instances } = (await (await fetch(`${WEB}/api/services?${parameters}`)).json()) as {
      instances: { service: string; instance: string; series: number; points: number }[];
    };
    return instances.filter(({ service }) => service === "smithy");
  };
  expect((await smiths()).map(({ instance }) => instance).sort()).toEqual(["a", "b"]);
  // Every set of the tests above was sent once by each instance: as many points as series.
  await expect.poll(async () => (await smiths()).every(({ series, points: got }) => series === got)).toBe(true);
});

interface FindingSeen {
  code: string;
  detail: string;
  endedAt: number | null;
}

/** Findings on record about a metric. */
async function findingsOf(metric: string): Promise<FindingSeen[]> {
  const answer = await fetch(`${WEB}/api/instruments/one?metric=${metric}`, FRESH);
  return ((await answer.json()) as { findings: FindingSeen[] }).findings;
}

async function contractFor(body: Record<string, unknown> & { name: string }): Promise<void> {
  const before = await fetch(`${WEB}/api/contracts/versions?name=${body.name}`);
  const { versions } = (await before.json()) as { versions: { version: number }[] };
  const based = versions[0]?.version ?? 0;
  const answer = await fetch(`${WEB}/api/contracts`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ body, note: "as agreed", based }),
  });
  expect(answer.status).toBe(201);
}

test("a counter that falls without starting anew is found, and so is one that fell silent", async ({ page }) => {
  const now = Date.now();
  const point = (seconds: number, value: number) => ({
    asInt: String(value),
    startTimeUnixNano: `${now - 3600_000}000000`,
    timeUnixNano: `${now - seconds * 1000}000000`,
    attributes: [],
  });
  const metric = (name: string, dataPoints: object[]) => ({
    name,
    unit: "{bolt}",
    sum: { aggregationTemporality: 2, isMonotonic: true, dataPoints },
  });
  const body = {
    resourceMetrics: [
      {
        resource: { attributes: Object.entries({ "service.name": "bolts", "service.version": "9" }).map(attribute) },
        scopeMetrics: [
          {
            metrics: [
              metric("bolt.turned", [point(20, 40), point(10, 70), point(1, 61)]),
              metric("bolt.shipped", [point(240, 3)]),
            ],
          },
        ],
      },
    ],
  };
  await contractFor({ name: "bolt.turned", kind: "counter", unit: "{bolt}", attributes: [] });
  await contractFor({ name: "bolt.shipped", kind: "counter", unit: "{bolt}", attributes: [], silentAfter: 2 });
  const response = await fetch(`${INTAKE}/v1/metrics`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body),
  });
  expect(await response.json()).toEqual({});
  await expect
    .poll(async () => await findingsOf("bolt.turned"))
    .toContainEqual(expect.objectContaining({ code: "negative", detail: expect.stringContaining("fell by 9 ") }));
  await expect
    .poll(async () => await findingsOf("bolt.shipped"))
    .toContainEqual(expect.objectContaining({ code: "silent", detail: expect.stringContaining("allows 2 minutes") }));
  await page.goto("/instruments/define?metric=bolt.shipped");
  await page.getByLabel("No longer holds, because").fill("bolts are no longer shipped");
  await page.getByRole("button", { name: "Withdraw it" }).click();
  await expect(page.getByText("withdrawn: bolts are no longer shipped")).toBeVisible();
  const open = async () => (await findingsOf("bolt.shipped")).filter(({ endedAt }) => endedAt === null);
  await expect.poll(open).toEqual([]);
});

test("a metric that went with a release is matched with what it became, once the release has settled", async ({
  page,
}) => {
  const database = new pg.Pool({ connectionString: process.env.DATABASE_URL, max: 1 });
  const sendRelease = async (release: string, name: string, from: number) => {
    const points = [0, 1, 2, 3].map((i) => ({
      asInt: String(10 + 5 * i),
      timeUnixNano: `${from + i * 10_000}000000`,
      startTimeUnixNano: `${from - 10_000}000000`,
      attributes: [attribute(["crane", "north"])],
    }));
    const response = await fetch(`${INTAKE}/v1/metrics`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({
        resourceMetrics: [
          {
            resource: { attributes: [attribute(["service.name", "quay"]), attribute(["service.version", release])] },
            scopeMetrics: [
              {
                metrics: [
                  {
                    name,
                    unit: "{crate}",
                    sum: { aggregationTemporality: 2, isMonotonic: true, dataPoints: points },
                  },
                ],
              },
            ],
          },
        ],
      }),
    });
    expect(await response.json()).toEqual({});
  };
  const now = Date.now();
  await sendRelease("1.0.0", "crate.lift.count", now - 700_000);
  await sendRelease("1.0.0", "crate.dropped", now - 700_000);
  await sendRelease("1.1.0", "crate.lifted", now - 500_000);
  const gone = async (name = "crate.lift.count") => (await findingsOf(name)).filter(({ code }) => code === "vanished");
  // The release is known since its first point, but was heard only just now: it may still be about to send the other.
  await page.waitForTimeout(22_000);
  expect(await gone()).toEqual([]);
  await database.query(
    `UPDATE activity h SET first_at = $1 FROM resource r WHERE r.id = h.resource_id AND r.service = 'quay'`,
    [now - 500_000],
  );
  await database.end();
  await expect
    .poll(() => gone())
    .toContainEqual(expect.objectContaining({ detail: expect.stringContaining("probably renamed to crate.lifted") }));
  // One every two seconds: it is awaited until thirty of them would have come since it is known.
  const known = Date.now() - now;
  if (known < 55_000) expect(await gone("crate.dropped")).toEqual([]);
  await expect
    .poll(() => gone("crate.dropped"), { timeout: 120_000 })
    .toContainEqual(expect.objectContaining({ detail: "1.0.0 had it, 1.1.0 does not" }));
  await page.goto("/instruments");
  const finding = page.getByRole("listitem").filter({ hasText: "crate.lift.count" });
  await expect(finding).toContainText("1.0.0 had it, 1.1.0 does not");
});

test("ten thousand metrics: a search answers at once, and the list scrolls without a hole", async ({ page }) => {
  const nanos = `${Date.now()}000000`;
  for (let from = 0; from < 10_000; from += 2500) {
    const metrics = Array.from({ length: 2500 }, (_, i) => ({
      name: `gear.${["cut", "ground", "polished", "fitted", "tested"][(from + i) % 5]}.n${from + i}`,
      unit: "{gear}",
      gauge: { dataPoints: [{ asInt: "1", timeUnixNano: nanos, attributes: [] }] },
    }));
    const response = await fetch(`${INTAKE}/v1/metrics`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({
        resourceMetrics: [
          { resource: { attributes: [attribute(["service.name", "gears"])] }, scopeMetrics: [{ metrics }] },
        ],
      }),
    });
    expect(response.status).toBe(200);
  }
  await page.goto("/instruments");
  await expect(page.getByText(/^10(\.\d)? k in all$/)).toBeVisible();
  // From the key to the painted list, as the page's own clock says; the median of several searches.
  const find = page.getByLabel("Find instruments");
  const took: number[] = [];
  for (const wanted of ["polished.n4242", "fitted.n78", "cut.n9990", "ground.n1", "tested.n5554"]) {
    await find.fill("");
    await find.fill(wanted.slice(0, -1));
    took.push(
      await find.evaluate(async (input: HTMLInputElement, text) => {
        const start = performance.now();
        const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")!.set!;
        set.call(input, text);
        input.dispatchEvent(new Event("input", { bubbles: true }));
        const shown = () => [...document.querySelectorAll("a")].some((link) => link.textContent === `gear.${text}`);
        while (!shown()) await new Promise((resolve) => requestAnimationFrame(resolve));
        return performance.now() - start;
      }, wanted),
    );
  }
  test.info().annotations.push({ type: "search", description: took.map((ms) => `${Math.round(ms)} ms`).join(", ") });
  console.log(`search among 10,000 metrics: ${took.map((ms) => Math.round(ms)).join(", ")} ms`);
  await find.fill("gear.");
  await page.mouse.move(600, 500);
  for (let i = 0; i < 12; i++) {
    await page.mouse.wheel(0, 20_000);
    await expect(page.getByRole("link", { name: /^gear\./ }).first()).toBeVisible();
  }
  await expect(page.getByRole("link", { name: /^gear\./ })).not.toHaveCount(10_000);

  // Nor are ten thousand drawn on the Store page, in the palette, or in the sentence of a reading; all of them are found.
  await page.goto("/store");
  const rows = page.getByRole("row").filter({ hasText: "gear." });
  await page.getByLabel("part of a metric's name").fill("polished.n");
  await expect(rows).toHaveCount(100, { timeout: 60_000 });
  await page.getByRole("button", { name: "show 100 of them" }).click();
  await expect(rows).toHaveCount(200);
  await page.getByLabel("part of a metric's name").fill("polished.n4242");
  await expect(rows).toHaveCount(1);
  await page.keyboard.press("Control+k");
  await page.getByRole("dialog").getByRole("combobox").fill("tested.n5554");
  await expect(page.getByRole("option", { name: /gear\.tested\.n5554/ })).toBeVisible();
  await page.goto("/scratch?last=1h&reading=last+of+gear.cut.n0");
  await page.getByRole("button", { name: "metric: gear.cut.n0" }).click();
  await expect(page.getByText(/^The first 200/)).toBeVisible();
  await page.getByPlaceholder("Find metric").fill("fitted.n78");
  await expect(page.getByRole("option", { name: "gear.fitted.n78 {gear}", exact: true })).toBeVisible();
});

test("the page of an instrument says so where none is named", async ({ page }) => {
  await page.goto("/instruments/one");
  await page.getByRole("link", { name: "Choose among all instruments" }).click();
  await expect(page).toHaveURL(/\/instruments(\?|$)/);
});

test("several kinds under one name, and two processes under one identity, are found and named", async () => {
  const list = (all: Record<string, string>) =>
    Object.entries(all).map(([key, stringValue]) => ({ key, value: { stringValue } }));
  const send = async (service: string, metrics: object[]) => {
    const body = {
      resourceMetrics: [{ resource: { attributes: list({ "service.name": service }) }, scopeMetrics: [{ metrics }] }],
    };
    const headers = { "Content-Type": "application/json" };
    expect((await fetch(`${INTAKE}/v1/metrics`, { method: "POST", headers, body: JSON.stringify(body) })).status).toBe(
      200,
    );
  };
  const begun = Date.now() - 100_000;
  for (let i = 0; i < 6; i++) {
    // Two processes take turns; what they add is 1 and 10 a turn.
    const turn = i % 2;
    const at = begun + 40_000 + i * 5000;
    const total = (turn === 0 ? 1 : 10) * (1 + Math.floor(i / 2));
    const dataPoints = [
      { startTimeUnixNano: `${begun + turn * 1000}000000`, timeUnixNano: `${at}000000`, asInt: String(total) },
    ];
    await send("twins", [{ name: "rope.coiled", sum: { aggregationTemporality: 2, isMonotonic: true, dataPoints } }]);
  }
  await send("loner", [
    { name: "rope.coiled", unit: "m", gauge: { dataPoints: [{ timeUnixNano: `${Date.now()}000000`, asDouble: 4 }] } },
  ]);
  const count = await read("count of rope.coiled", begun, Date.now());
  expect(count.series[0].total).toBe(3 + 30);
  expect(count.warnings.map(({ code }) => code).sort()).toEqual(["mixed-kinds", "two-writers"]);
  await expect
    .poll(async () => (await findingsOf("rope.coiled")).map(({ code }) => code).sort())
    .toEqual(["mixed", "two-writers"]);
  const doubled = (await findingsOf("rope.coiled")).find(({ code }) => code === "two-writers")!;
  expect(doubled.detail).toContain(`${new Date(begun).toISOString()} and ${new Date(begun + 1000).toISOString()}`);
  expect(doubled.detail).toContain("service.instance.id");
});
