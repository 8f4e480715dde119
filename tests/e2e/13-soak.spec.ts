import { expect, test } from "@playwright/test";
import { soak } from "../soak/soak";
import { turnover } from "../soak/turnover";

test("half a minute at half of the write limit, with kills and a restart of the database: nothing is lost or doubled", async () => {
  const report = await soak(30, 6, () => {});
  expect(report.kills).toBeGreaterThan(1);
  expect(report.restarts).toBe(1);
  expect(report.points).toBeGreaterThan(10_000);
  expect(report.counted).toEqual(report.wanted);
  expect(report.readings.answered).toBeGreaterThan(0);
});

test("series that change all the time leave no more behind than themselves: memory stays flat", async () => {
  const { sent, counted, bytes, pages, early, late } = await turnover(250);
  test.info().annotations.push({ type: "memory", description: `${bytes} MiB came; ${early} MiB, then ${late} MiB` });
  expect(pages).toBeGreaterThan(3);
  console.log(`${bytes} MiB came; ${early} MiB, then ${late} MiB`);
  // What holds on to what came holds all of it; a heap that has not been collected yet holds some of it.
  expect(late - early).toBeLessThan(bytes / 3);
  expect(counted).toBe(sent);
});
