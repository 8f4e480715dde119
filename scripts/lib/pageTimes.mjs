import { chromium as playwright } from "playwright-core";
import { chromium } from "./packages.mjs";

/** How long pages take in Chromium until something of them is there to read, and until all of it is. */

/** A chart that is drawn, by the server or the browser. Before it said so, it was drawn by its library at once. */
const CHART = "main [data-standing], main [data-drawn='true'], main .recharts-surface";

/** A page of the application: where it is, and what of it is the first chart or row. */
export const PAGES = [
  { name: "releases", path: "/releases", first: `${CHART}, main tbody tr` },
  { name: "services", path: "/services", first: "main tbody tr" },
  { name: "a service", path: "/services/one", first: CHART },
  { name: "instruments", path: "/instruments", first: "main a[href*='metric=']" },
  { name: "scratch", path: "/scratch", reading: true, first: CHART },
  { name: "sheets", path: "/sheets", first: "main tbody tr" },
  { name: "store", path: "/store", first: "main tbody tr" },
];

const READING = "p95 of http.server.request.duration by service";
const QUIET = 700;

/** Notes in the page when the first piece came, when the last skeleton went and when anything of what it shows changed last. */
function watch({ first }) {
  const times = { first: null, skeleton: 0, changed: 0 };
  window.pageTimes = times;
  const look = (changes) => {
    if (changes.some(({ target }) => target.closest?.("main"))) times.changed = performance.now();
    if (times.first === null && document.querySelector(first)) times.first = performance.now();
    if (document.querySelector("main .skeleton-bar, main [aria-label='Reading…']")) times.skeleton = performance.now();
  };
  new MutationObserver(look).observe(document, { childList: true, subtree: true });
}

export function launch() {
  return playwright.launch({ executablePath: chromium() });
}

/** A browser of somebody who was here before: it has told its time zone, and keeps none of our files. */
export async function openBrowser(browser, base, session) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, timezoneId: "UTC" });
  await context.addCookies([
    { name: "tin-zone", value: "UTC", url: base },
    { ...session, url: base },
  ]);
  return context;
}

/** Whether a request is for what the page shows. Code that comes in time changes the page; what is loaded for the next pages does not. */
const isOfPage = (request) => request.resourceType() !== "script" && !new URL(request.url()).searchParams.has("_rsc");

/** Times of one page, ms from its beginning. @returns {{first: number, whole: number, calls: string[]}} */
async function timePage(browser, base, page, { service, session }) {
  const context = await openBrowser(browser, base, session);
  const tab = await context.newPage();
  const calls = [];
  let open = 0;
  let last = Date.now();
  let lastOfPage = Date.now();
  tab.on("request", () => open++);
  const over = (request) => {
    open--;
    last = Date.now();
    if (isOfPage(request)) lastOfPage = last;
    if (request.url().includes("/api/")) calls.push(new URL(request.url()).pathname);
  };
  tab.on("requestfinished", over);
  tab.on("requestfailed", over);
  await tab.addInitScript(watch, { first: page.first });
  const address = new URL(page.path, base);
  if (service) address.searchParams.set("service", service);
  if (page.reading) address.searchParams.set("reading", READING);
  const began = Date.now();
  await tab.goto(address.href, { waitUntil: "commit" });
  for (;;) {
    await new Promise((resolve) => setTimeout(resolve, 50));
    const times = await tab.evaluate(() => window.pageTimes).catch(() => null);
    const quiet = open <= 0 && Date.now() - last > QUIET;
    if ((times?.first && quiet) || Date.now() - began > 30_000) {
      const { first, skeleton, changed } = times ?? { first: Number.NaN, skeleton: 0, changed: 0 };
      const whole = Math.max(lastOfPage - began, skeleton, changed);
      await context.close();
      return { first: first ?? Number.NaN, whole, calls };
    }
  }
}

/** From one page to the next by the navigation, ms until the next one's first piece. */
async function timeStep(browser, base, from, to, { service, session }) {
  const context = await openBrowser(browser, base, session);
  const tab = await context.newPage();
  const address = new URL(from.path, base);
  if (service) address.searchParams.set("service", service);
  await tab.goto(address.href);
  await tab.waitForSelector(from.first, { timeout: 30_000 });
  await tab.waitForTimeout(1500);
  const took = await tab.evaluate(
    ({ path, first }) =>
      new Promise((resolve) => {
        setTimeout(() => resolve(Number.NaN), 15_000);
        const began = performance.now();
        const look = () => {
          if (location.pathname !== path || !document.querySelector(first)) return;
          observer.disconnect();
          requestAnimationFrame(() => resolve(performance.now() - began));
        };
        const observer = new MutationObserver(look);
        observer.observe(document, { childList: true, subtree: true, attributes: true });
        document.querySelector(`nav a[href^="${path}"]`).click();
      }),
    to,
  );
  await context.close();
  return took;
}

const median = (values) => values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)];

/**
 * Medians of each page on several servers, one after the other in turn, so that what else the machine does falls on all.
 *
 * @param {string[]} bases addresses of the servers
 * @returns one row for a page, with the figures of each server, ms
 */
export async function timePages(bases, { session, rounds = 9, service = null, pages = PAGES, onRow = () => {} } = {}) {
  const browser = await launch();
  try {
    const rows = [];
    const add = (row) => {
      rows.push(row);
      onRow(row);
    };
    for (const page of pages) {
      const found = bases.map(() => []);
      for (let round = -1; round < rounds; round++)
        for (const [i, base] of bases.entries()) {
          const times = await timePage(browser, base, page, { service, session });
          if (round >= 0) found[i].push(times);
        }
      add({
        name: page.name,
        figures: found.map((all) => ({
          first: median(all.map(({ first }) => first)),
          whole: median(all.map(({ whole }) => whole)),
          calls: all.at(-1).calls,
        })),
      });
    }
    const reached = pages.filter(({ path }) => path !== "/services/one" && path !== "/scratch");
    for (const [i, to] of reached.entries()) {
      const from = reached.at(i - 1);
      const found = bases.map(() => []);
      for (let round = -1; round < rounds; round++)
        for (const [b, base] of bases.entries()) {
          const took = await timeStep(browser, base, from, to, { service, session });
          if (round >= 0) found[b].push(took);
        }
      add({ name: `${from.name} → ${to.name}`, figures: found.map((all) => ({ first: median(all) })) });
    }
    return rows;
  } finally {
    await browser.close();
  }
}
