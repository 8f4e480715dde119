import { expect, test } from "@playwright/test";
import { soak } from "../soak/soak";

test("half a minute at half of the write limit, with kills and a restart of the database: nothing is lost or doubled", async () => {
  test.setTimeout(180_000);
  const report = await soak(30, 6, () => {});
  expect(report.kills).toBeGreaterThan(1);
  expect(report.restarts).toBe(1);
  expect(report.points).toBeGreaterThan(10_000);
  expect(report.counted).toEqual(report.wanted);
  expect(report.readings.answered).toBeGreaterThan(5);
});
