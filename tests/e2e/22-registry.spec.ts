import { expect, test } from "@playwright/test";
import pg from "pg";
import { Batch } from "../../src/core/otlp/batch/batch";
import { Dictionary } from "../../src/core/otlp/dictionary";
import { Committer } from "../../src/store/commit";
import { runJob } from "../../src/store/jobs/job";
import { forgetting } from "../../src/store/registry/forgetSeries";
import { countOf, freePort, killHard, post, read, startIntake } from "./helpers";

/** Instances that come and go leave the registry no larger than what is stored. */

const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL });
test.afterAll(() => pool.end());

async function registered(name: string): Promise<{ series: number; values: number }> {
  const { rows } = await pool.query(
    `SELECT (SELECT count(*)::int FROM series s WHERE s.metric_id = m.id) AS series,
       (SELECT count(*)::int FROM known_value k WHERE k.metric_id = m.id) AS values FROM metric m WHERE name = $1`,
    [name],
  );
  return rows[0];
}

/** Forgets what nothing stored refers to; another intake may hold the job for a moment. */
async function forget(silent: number): Promise<void> {
  for (;;) {
    if (await runJob(pool, forgetting(silent))) return;
    await new Promise((resolve) => setTimeout(resolve, 60));
  }
}

test("series of which nothing is stored go, with their values; and an intake that knew their ids goes on", async () => {
  const committer = new Committer(pool);
  const dictionary = new Dictionary();
  const metric = dictionary.metric(
    { name: "kite.flown", kind: "gauge", unit: "", temporality: "none", monotonic: false },
    "",
  );
  const seriesOf = (kite: string) =>
    dictionary.series(metric, {
      resource: { "service.name": "kites", "service.instance.id": kite },
      scope: { name: "", version: "" },
      attributes: { kite },
    });
  const commit = async (kites: readonly string[], value: number) => {
    const batch = new Batch();
    for (const kite of kites)
      batch.number(seriesOf(kite), { timeMs: Date.now(), timeNs: 0, startMs: 0, startNs: 0, flags: 0 }, value);
    await committer.commit([batch]);
  };
  const names = Array.from({ length: 300 }, (_, i) => `kite ${i}`);
  await commit(names, 1);
  await committer.heardLog.write();
  expect(await registered("kite.flown")).toEqual({ series: 300, values: 300 });
  await forget(-1000);
  expect(await registered("kite.flown")).toEqual({ series: 300, values: 300 });

  // Their points go; the first ten report again under ids that their intake remembers.
  await pool.query("DELETE FROM strip WHERE metric_id = (SELECT id FROM metric WHERE name = 'kite.flown')");
  await forget(-1000);
  expect(await registered("kite.flown")).toEqual({ series: 0, values: 0 });
  const from = Date.now() - 60_000;
  await commit(names.slice(0, 10), 2);
  expect(await registered("kite.flown")).toEqual({ series: 10, values: 10 });
  const { series } = await read("max of kite.flown by kite", from, Date.now() + 1000);
  expect(series.map(({ labels, total }) => [labels.kite, total])).toEqual(
    names
      .slice(0, 10)
      .map((kite) => [kite, 2])
      .sort(([a], [b]) => (a < b ? -1 : 1)),
  );
});

test("forgetting beside intakes that write and are killed never takes a name from a point", async () => {
  const name = "kite.lost";
  const port = await freePort();
  let intake = await startIntake(port);
  const base = `http://127.0.0.1:${port}`;
  const from = Date.now() - 60_000;
  let taken = 0;
  for (let round = 0; round < 12; round++) {
    const sending = Array.from({ length: 8 }, async (_, i) => {
      const at = Date.now() - i;
      if ((await post(countOf("kites", name, 1, at, { kite: `${round % 3} ${i}` }), base)) === 200) taken++;
    });
    await Promise.all([...sending, forget(-1000)]);
    if (round % 4 === 1 || round === 10) {
      // Their points go, as after their retention: the next round writes under ids that are being forgotten.
      await pool.query("DELETE FROM strip WHERE metric_id = (SELECT id FROM metric WHERE name = $1)", [name]);
      taken = 0;
    }
    if (round % 5 === 4) {
      await killHard(intake);
      intake = await startIntake(port);
    }
  }
  await killHard(intake);
  const { series } = await read(`count of ${name} by kite`, from, Date.now() + 1000);
  expect(series.every(({ labels }) => labels.kite !== null)).toBe(true);
  expect(series.reduce((sum, { total }) => sum + (total ?? 0), 0)).toBe(taken);
});
