import { expect, test } from "@playwright/test";
import { countOf, FRESH, freePort, INTAKE, killHard, post, publish, read, startIntake, WEB } from "./helpers";
import { untilSampled } from "./sample";

interface Live {
  live: { id: number; config: { metrics: object[] } };
  waiting: { step: string; points: number }[];
}

async function pipeline(): Promise<Live> {
  return (await (await fetch(`${WEB}/api/pipeline`)).json()) as Live;
}

test.afterAll(async () => {
  await publish({}, "nothing any more");
});

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

async function total(text: string): Promise<number> {
  const now = Date.now();
  const { series } = await read(text, now - 900_000, now + 120_000, "1h");
  return series.reduce((sum, one) => sum + (one.total ?? 0), 0);
}

test("merged while it runs, and every point counts once: killed intakes, another version, and back", async () => {
  const metric = `thread.spun.${test.info().repeatEachIndex}`;
  await publish(
    {
      metrics: [
        { id: "by-hue", type: "merge", where: `metric is "${metric}"`, attributes: ["spindle"], every: 2 },
        { id: "noise", type: "drop", where: 'metric is "thread.noise"' },
      ],
    },
    "spindles go",
  );
  let sent = 0;
  let stop = false;
  const accepted = { count: 0, tries: 0 };
  const sender = async (base: string, spindle: string) => {
    for (let i = 0; !stop; i++) {
      // A delta of a moment of its own, sent until somebody took it.
      const body = countOf("mill", metric, 1 + (i % 3), Date.now(), {
        hue: i % 2 ? "red" : "blue",
        spindle,
      });
      for (;;) {
        accepted.tries++;
        const status = await post(body, base);
        if (status === 200) break;
        if (stop) return;
        await pause(50);
      }
      accepted.count++;
      sent += 1 + (i % 3);
      await pause(5);
    }
  };
  const port = await freePort();
  let second = await startIntake(port);
  const work = [sender(INTAKE, "one"), sender(INTAKE, "two"), sender(`http://127.0.0.1:${port}`, "three")];
  for (let round = 0; round < 3; round++) {
    const enough = accepted.count + 50;
    while (accepted.count < enough) await pause(50);
    // Windows of two seconds close meanwhile.
    await pause(2200);
    await killHard(second);
    second = await startIntake(port);
  }
  // Another version, in which the merge stays: what waits and what it remembers go on.
  await publish(
    { metrics: [{ id: "by-hue", type: "merge", where: `metric is "${metric}"`, attributes: ["spindle"], every: 2 }] },
    "noise may stay",
  );
  await pause(4000);
  // And one without it: its windows are closed, and the spindles come through as they are.
  await publish({}, "no pipeline");
  await pause(4000);
  stop = true;
  await Promise.all(work);
  await killHard(second);
  expect(accepted.count).toBeGreaterThan(100);
  await expect.poll(async () => (await pipeline()).waiting.length).toBe(0);
  await expect.poll(() => total(`count of ${metric}`)).toBe(sent);
  // Merged: only the hue is left; not merged: the spindle is there.
  const merged = await total(`count of ${metric} where spindle is missing`);
  expect(merged).toBeGreaterThan(sent / 3);
  expect(merged).toBeLessThan(sent);
});

test("running totals are counted once over a merge that comes, changes and goes", async () => {
  const metric = `yarn.reeled.${test.info().repeatEachIndex}`;
  await publish({}, "as it comes");
  const began = Date.now() - 1000;
  const totals = [0, 0, 0];
  let stop = false;
  const send = async () => {
    const ms = Date.now();
    const dataPoints = totals.map((_, i) => {
      totals[i] += 1 + i;
      return {
        asInt: String(totals[i]),
        timeUnixNano: `${ms}000000`,
        startTimeUnixNano: `${began}000000`,
        attributes: [{ key: "reel", value: { stringValue: `reel ${i}` } }],
      };
    });
    const sum = { aggregationTemporality: 2, isMonotonic: true, dataPoints };
    const resource = { attributes: [{ key: "service.name", value: { stringValue: "mill" } }] };
    const metrics = [{ name: metric, unit: "{item}", sum }];
    expect(await post({ resourceMetrics: [{ resource, scopeMetrics: [{ metrics }] }] })).toBe(200);
  };
  const work = (async () => {
    for (; !stop; await pause(200)) await send();
  })();
  const fold = (every: number) => ({
    id: "fold",
    type: "fold",
    where: `metric is "${metric}"`,
    attribute: "reel",
    folds: ["numbers"],
    every,
  });
  const apart = () => total(`count of ${metric} where reel is not "reel {id}"`);
  const together = () => total(`count of ${metric} where reel is "reel {id}"`);
  /** Waits until what is stored grew so often. */
  const grows = async (stored: () => Promise<number>, times: number) => {
    for (let turn = 0; turn < times; turn++) {
      const before = await stored();
      await expect.poll(stored, { intervals: [200] }).toBeGreaterThan(before);
    }
  };
  // Before the first of them is stored there is no such metric.
  await expect.poll(() => apart().catch(() => 0)).toBeGreaterThan(0);
  await grows(apart, 5);
  await publish({ metrics: [fold(2)] }, "reels together");
  await grows(together, 3);
  await publish({ metrics: [fold(1)] }, "more often");
  await grows(together, 3);
  await publish({}, "each reel again");
  await grows(apart, 5);
  stop = true;
  await work;
  const sent = totals.reduce((sum, one) => sum + one, 0);
  await expect.poll(async () => (await pipeline()).waiting.length).toBe(0);
  await expect.poll(() => total(`count of ${metric}`)).toBe(sent);
  expect((await apart()) + (await together())).toBe(sent);
});

test("what is dropped is not stored, what is renamed is; a draft from an old version is refused", async () => {
  const own = (name: string) => `bobbin.${name}.${test.info().repeatEachIndex}`;
  const id = (name: string) => `bobbin-${name}-${test.info().repeatEachIndex}`;
  const version = await publish(
    {
      metrics: [
        { id: id("noise"), type: "drop", where: `metric is "${own("noise")}"` },
        { id: id("name"), type: "metric", where: `metric is "${own("wound")}"`, to: own("filled") },
        { id: "key", type: "rename", from: "hue", to: "colour" },
      ],
    },
    "tidier",
  );
  const now = Date.now();
  expect(await post(countOf("mill", own("noise"), 1, now))).toBe(200);
  expect(await post(countOf("mill", own("wound"), 7, now, { hue: "red" }))).toBe(200);
  expect(await total(`count of ${own("filled")} where colour is "red"`)).toBe(7);
  const { instruments } = (await (await fetch(`${WEB}/api/instruments`, FRESH)).json()) as {
    instruments: { name: string }[];
  };
  expect(instruments.map(({ name }) => name)).not.toContain(own("noise"));
  const stale = await fetch(`${WEB}/api/pipeline`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ config: { metrics: [] }, note: "from before", based: version - 1 }),
  });
  expect(stale.status).toBe(409);
  const wrong = await fetch(`${WEB}/api/pipeline`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({
      config: { metrics: [{ id: "a", type: "drop", where: "metric is" }] },
      note: "n",
      based: 0,
    }),
  });
  expect(await wrong.json()).toMatchObject({ status: 400, detail: expect.stringContaining("config.metrics.0.where") });
  // Steps tell of themselves: points, and bytes (28 a point, 9 its number, 8 and the texts for an attribute).
  const told = async (of: string, step: string) => {
    const now = Date.now();
    const text = `count of tin.pipeline.${of} where step is "${id(step)}" by way`;
    // Before the first report there is no such metric.
    const { series } = await read(text, now - 6 * 3600_000, now + 60_000, "12h").catch(() => ({ series: [] }));
    return Object.fromEntries(series.map(({ labels, total: all }) => [labels.way, all]));
  };
  const ways = async (step: string) => [await told("points", step), await told("bytes", step)];
  const renamed = 28 + 9 + 8 + "hue".length + "red".length;
  await expect
    .poll(() => ways("name"))
    .toEqual([
      { in: 1, out: 1 },
      { in: renamed, out: renamed },
    ]);
  await expect
    .poll(() => ways("noise"))
    .toEqual([
      { in: 1, out: 0 },
      { in: 28 + 9, out: 0 },
    ]);
});

test("an explosion of series is found, drafted away, tried, published, seen, and rolled back", async ({ page }) => {
  await publish({}, "as it comes");
  let stop = false;
  let turns = 0;
  const began = Date.now();
  /** Two hundred lockers, each a series, every two seconds. */
  const cabinet = async () => {
    while (!stop) {
      turns++;
      const ms = Date.now();
      const dataPoints = Array.from({ length: 200 }, (_, i) => ({
        asInt: String(turns * (1 + (i % 3))),
        timeUnixNano: `${ms}000000`,
        startTimeUnixNano: `${began}000000`,
        attributes: [
          { key: "door", value: { stringValue: i % 2 ? "left" : "right" } },
          { key: "locker_id", value: { stringValue: `locker ${i}` } },
        ],
      }));
      const sum = { aggregationTemporality: 2, isMonotonic: true, dataPoints };
      const resource = { attributes: [{ key: "service.name", value: { stringValue: "cabinet" } }] };
      await post({
        resourceMetrics: [{ resource, scopeMetrics: [{ metrics: [{ name: "hinge.turned", unit: "{turn}", sum }] }] }],
      });
      await pause(2000);
    }
  };
  const work = cabinet();
  try {
    await untilSampled({ metric: "hinge.turned" }, 600);
    await page.goto("/pipeline");
    const origins = page.getByRole("region", { name: "Where the series come from" });
    const offer = origins.getByRole("button", { name: /fold locker_id of hinge\.turned: 2 series are left/ });
    await expect(offer).toBeVisible();
    await offer.click();
    await expect(page.getByRole("region", { name: "Metrics that change" })).toContainText("200 → 2");
    await expect(page.getByText("locker_id=locker {id}").first()).toBeVisible();
    // A step that is not understood says so, and cannot be published; undo brings the draft back.
    await page.getByLabel("condition").fill("metric is");
    await expect(page.getByRole("alert").filter({ hasText: "where:" })).toBeVisible();
    await expect(page.getByRole("button", { name: "Publish" })).toBeDisabled();
    await page.getByLabel("condition").fill('metric is "hinge.turned"');
    await page.getByLabel("what changes, in a few words").fill("no series per locker");
    await page.getByRole("button", { name: "Publish" }).click();
    await expect(page.getByText(/is live since .*no series per locker/)).toBeVisible();
    await expect
      .poll(
        async () => {
          const now = Date.now();
          const { series } = await read("last of hinge.turned by locker_id", now - 15_000, now, "15s");
          return series.map(({ labels }) => labels.locker_id);
        },
        { timeout: 60_000, intervals: [2000] },
      )
      .toEqual(["locker {id}"]);
    await expect(page.getByText(/now \d+\.\d → \d+\.\d points\/s/)).toBeVisible({ timeout: 60_000 });
    await page
      .getByRole("button", { name: /draft version \d+ again/ })
      .first()
      .click();
    await expect(page.getByText("No steps: points go through as they are.")).toBeVisible();
    await page.getByLabel("what changes, in a few words").fill("each locker again");
    await page.getByRole("button", { name: "Publish" }).click();
    await expect(page.getByText(/is live since .*each locker again/)).toBeVisible();
    await expect
      .poll(
        async () => {
          const now = Date.now();
          return (await read("last of hinge.turned by locker_id", now - 6000, now, "6s")).series.length;
        },
        { timeout: 60_000, intervals: [2000] },
      )
      .toBeGreaterThanOrEqual(200);
  } finally {
    stop = true;
    await work;
  }
});

test("steps are moved by the keyboard, switched off and taken out, and each change can be undone", async ({ page }) => {
  await publish(
    {
      metrics: [
        { id: "one", type: "drop", where: 'metric is "a"' },
        { id: "two", type: "drop", where: 'metric is "b"' },
      ],
    },
    "two steps",
  );
  await page.goto("/pipeline");
  const steps = page.getByRole("list", { name: "Steps of the lane for metrics" }).getByRole("listitem");
  const conditions = () =>
    steps.getByLabel("condition").evaluateAll((all) => all.map((one) => (one as HTMLInputElement).value));
  await expect(steps).toHaveCount(2);
  await page.getByRole("button", { name: /move step 1, drop/ }).focus();
  for (const key of ["Space", "ArrowDown", "Space"]) {
    await page.keyboard.press(key);
    // Where things are is measured between two frames.
    await pause(400);
  }
  await expect.poll(conditions).toEqual(['metric is "b"', 'metric is "a"']);
  await page.getByRole("button", { name: "take step 1 out" }).click();
  await expect.poll(conditions).toEqual(['metric is "a"']);
  await page.getByRole("button", { name: "undo" }).click();
  await page.getByRole("button", { name: "undo" }).click();
  await expect.poll(conditions).toEqual(['metric is "a"', 'metric is "b"']);
  await page.reload();
  await expect.poll(conditions).toEqual(['metric is "a"', 'metric is "b"']);
});
