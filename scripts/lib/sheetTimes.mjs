import { openBrowser } from "./pageTimes.mjs";

/** How quickly a large sheet is there in Chromium, and how smoothly the crosshair moves over it. */

const DEPOTS = "where depot is there";
/** Readings of the demonstration's history, no two the same, each with several series. */
const READINGS = [
  "p95 of http.server.request.duration by release",
  "rate of http.server.request.duration by http.route top 6",
  `rate of loan.reserved ${DEPOTS} by depot`,
  `count of loan.reserved ${DEPOTS} by tool.kind`,
  "max of process.memory.usage by release",
  "mean of process.cpu.utilization by service",
  "rate of cache.lookups by outcome",
  "share of http.server.request.duration that error.type is there by release",
  "p50 of http.server.request.duration by service",
  "p95 of fee.quote.duration by tool.kind",
  "mean of tool.search.results by depot",
  "rate of http.server.request.duration by service",
  "p99 of http.server.request.duration by release",
  "count of http.server.request.duration by http.response.status_code",
  `rate of loan.reserved ${DEPOTS} by depot, tool.kind top 6`,
  "p95 of http.server.request.duration by http.route top 6",
  "min of process.memory.usage by service",
  "max of process.cpu.utilization by release",
  "count of cache.lookups by outcome",
  "share over 500 ms of http.server.request.duration by release",
  "mean of http.server.request.duration by service",
  "rate of fee.quote.duration by release",
  "p95 of tool.search.results by depot",
  "rate of loan.extend.count by depot",
];
const LOOKS = ["lines", "lines", "stacked", "lines"];

/** A sheet of 24 plates, no two of which ask the same. */
export const LARGE_SHEET = {
  name: "Twenty-four plates",
  bands: Array.from({ length: 8 }, (_, band) => ({
    id: `band-${band}`,
    title: `Band ${band + 1}`,
    plates: Array.from({ length: 3 }, (_, i) => {
      const place = band * 3 + i;
      const text = READINGS[place];
      return {
        id: `plate-${place}`,
        title: `Plate ${place + 1}`,
        holds: "readings",
        readings: [{ text }],
        look: { as: LOOKS[place % LOOKS.length] },
      };
    }),
  })),
};

const DAY = 24 * 3_600_000;

/** Times of the sheet, ms from the beginning: its first plate, and all 24. */
async function timeSheet(context, base, id) {
  const tab = await context.newPage();
  await tab.addInitScript(() => {
    const times = { first: null, all: null };
    window.sheetTimes = times;
    new MutationObserver(() => {
      const drawn = document.querySelectorAll(
        "main [data-plate]:has([data-standing], [data-drawn='true'], .recharts-surface, table)",
      ).length;
      if (drawn > 0) times.first ??= performance.now();
      if (drawn >= 24) times.all ??= performance.now();
    }).observe(document, { childList: true, subtree: true });
  });
  await tab.goto(`${base}/sheets/one?sheet=${id}&last=1d`, { waitUntil: "commit" });
  await tab.waitForFunction(() => window.sheetTimes?.all != null, null, { timeout: 60_000, polling: 100 });
  const times = await tab.evaluate(() => window.sheetTimes);
  await tab.close();
  return times;
}

/** The sheet in a browser that has never been here, and opened once more in the same browser. */
async function timeBoth(browser, base, id, session) {
  const context = await openBrowser(browser, base, session);
  const cold = await timeSheet(context, base, id);
  const { first, all } = await timeSheet(context, base, id);
  await context.close();
  return { coldFirst: cold.first, coldAll: cold.all, first, all };
}

/** The crosshair over the sheet for three seconds: frames a second, the longest frame, and tasks over 50 ms of Chromium's trace. */
async function hoverSheet(browser, base, id, session) {
  const context = await openBrowser(browser, base, session);
  const tab = await context.newPage();
  const to = Math.floor(Date.now() / 60_000) * 60_000 - 3 * 3_600_000;
  await tab.goto(`${base}/sheets/one?sheet=${id}&from=${to - DAY}&to=${to}`);
  await tab.waitForFunction(
    () => document.querySelectorAll("main [data-plate] [data-drawn='true']").length >= 24,
    null,
    {
      timeout: 60_000,
    },
  );
  await tab.waitForTimeout(3000);
  const plot = await tab.locator("main [data-plate] [data-drawn='true']").first().boundingBox();
  await browser.startTracing(tab, {
    categories: ["toplevel", "disabled-by-default-devtools.timeline", "devtools.timeline"],
  });
  const frames = tab.evaluate(
    () =>
      new Promise((resolve) => {
        const times = [];
        const tick = (time) => {
          times.push(time);
          if (time - times[0] < 3000) requestAnimationFrame(tick);
          else resolve(times);
        };
        requestAnimationFrame(tick);
      }),
  );
  const began = Date.now();
  for (let i = 0; Date.now() - began < 3100; i++) {
    const part = 0.1 + 0.8 * ((i % 100) / 100);
    await tab.mouse.move(plot.x + plot.width * part, plot.y + plot.height / 2);
  }
  const times = await frames;
  const trace = JSON.parse((await browser.stopTracing()).toString());
  await context.close();
  const gaps = times.slice(1).map((time, i) => time - times[i]);
  const mains = new Set(
    trace.traceEvents
      .filter(({ name, args }) => name === "thread_name" && args.name === "CrRendererMain")
      .map(({ pid, tid }) => `${pid} ${tid}`),
  );
  const tasks = trace.traceEvents
    .filter(({ name, pid, tid, dur }) => name === "RunTask" && mains.has(`${pid} ${tid}`) && dur > 0)
    .map(({ dur }) => dur / 1000);
  return {
    perSecond: (1000 * gaps.length) / (times.at(-1) - times[0]),
    longest: Math.max(...gaps),
    long: tasks.filter((dur) => dur > 50).length,
    longestTask: Math.max(0, ...tasks),
  };
}

const median = (values) => values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)];

/** Medians of several times that the sheet was opened, and of moves over it. */
export async function timeLargeSheet(browser, base, { session, rounds }) {
  const headers = { "Content-Type": "application/json", Cookie: `${session.name}=${session.value}`, Origin: base };
  const body = JSON.stringify({ id: "twenty-four", note: "of a benchmark", sheet: LARGE_SHEET });
  const made = await fetch(`${base}/api/sheets`, { method: "POST", headers, body });
  if (!made.ok && made.status !== 409) throw new Error(`the sheet was not taken: ${await made.text()}`);
  const opened = [];
  for (let round = -1; round < rounds; round++) {
    const times = await timeBoth(browser, base, "twenty-four", session);
    if (round >= 0) opened.push(times);
  }
  const hovered = [];
  for (let round = 0; round < Math.min(3, rounds); round++)
    hovered.push(await hoverSheet(browser, base, "twenty-four", session));
  const of = (all, name) => median(all.map((one) => one[name]));
  return {
    coldFirst: of(opened, "coldFirst"),
    coldAll: of(opened, "coldAll"),
    first: of(opened, "first"),
    all: of(opened, "all"),
    perSecond: of(hovered, "perSecond"),
    longest: of(hovered, "longest"),
    long: of(hovered, "long"),
    longestTask: of(hovered, "longestTask"),
  };
}
