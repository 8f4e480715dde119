import type pg from "pg";
import { Batch } from "../../src/core/otlp/batch/batch";
import { runJob } from "../../src/engine/pool";
import { Committer } from "../../src/store/commit";
import { registerSeries } from "../../src/store/registry/registry";
import { makeSeries, START } from "./data";
import { inMs, median, noteSeries, perSecond } from "./measure";

const SERIES = 10_000;
const DAY = 86400_000;

/** Readings in the engine's threads while this one writes at half of what it could write. */
export async function benchTogether(pool: pg.Pool): Promise<void> {
  const { series } = makeSeries("bench.together", "sum", SERIES);
  await registerSeries(pool, series);
  const committer = new Committer(pool);
  let t = 0;
  const from = Math.floor(Date.now() / DAY) * DAY;
  const commit = async () => {
    const batch = new Batch();
    const head = { timeMs: from + t++ * 1000, timeNs: 0, startMs: from, startNs: 0, flags: 0 };
    series.forEach((one, i) => {
      batch.number(one, head, t * 40 + (i % 31));
    });
    await committer.commit([batch]);
  };
  for (let i = 0; i < 5; i++) await commit();
  const began = performance.now();
  for (let i = 0; i < 30; i++) await commit();
  const each = (performance.now() - began) / 30;
  const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

  const ask = async () => {
    const at = performance.now();
    const job = { text: "count of bench.steady by release", from: START, to: START + DAY, every: null } as const;
    const outcome = await runJob({ type: "reading", ...job, zone: "UTC", picks: {} }, { caller: "bench" });
    if (!outcome.ok) throw new Error(outcome.problem.detail);
    return performance.now() - at;
  };
  for (let i = 0; i < 3; i++) await ask();
  const idle: number[] = [];
  for (let i = 0; i < 15; i++) {
    idle.push(await ask());
    await wait(50);
  }
  let writing = true;
  let written = 0;
  const start = performance.now();
  const writer = (async () => {
    while (writing) {
      const due = start + written * each * 2;
      await wait(Math.max(0, due - performance.now()));
      await commit();
      written++;
    }
  })();
  const busy: number[] = [];
  for (let i = 0; i < 25; i++) {
    busy.push(await ask());
    await wait(50);
  }
  writing = false;
  const took = performance.now() - start;
  await writer;
  noteSeries(
    "Readers and writers together (a reading of 1,000 series over a day, decoded columns kept)",
    ["", "median", "against idle", "target"],
    [
      ["idle", inMs(median(idle)), "1.0×", ""],
      [
        `beside ${perSecond(written * SERIES, took)} (the limit is ${perSecond(SERIES, each)})`,
        inMs(median(busy)),
        `${(median(busy) / median(idle)).toFixed(1)}×`,
        "≤ 2×",
      ],
    ],
  );
}
