import { expect, test } from "@playwright/test";
import pg from "pg";
import { countOf, freePort, killHard, post, read, startIntake } from "./helpers";

test("kill -9 of the intake during a load: every acknowledged point is there, once", async () => {
  test.setTimeout(120_000);
  const port = await freePort();
  const base = `http://127.0.0.1:${port}`;
  let intake = await startIntake(port);
  const began = Date.now() - 3_600_000;
  const acknowledged: number[] = [];
  const unsure: number[] = [];
  let next = 0;
  let running = true;

  // Each point has a millisecond of its own and a power-free value, so that a lost or doubled one shows.
  const worker = async () => {
    while (running) {
      const id = next++;
      const status = await post(
        countOf("hammer", "nail.driven", 1000 + id, began + id, { lane: String(id % 7) }),
        base,
      );
      (status === 200 ? acknowledged : unsure).push(id);
      if (status !== 200) await new Promise((resolve) => setTimeout(resolve, 20));
    }
  };
  const load = Promise.all(Array.from({ length: 12 }, worker));
  for (let round = 0; round < 4; round++) {
    await new Promise((resolve) => setTimeout(resolve, 1200));
    await killHard(intake);
    intake = await startIntake(port);
  }
  running = false;
  await load;

  // What was not acknowledged is sent again, as an exporter would: a repeat must not count twice.
  for (const id of unsure)
    expect(await post(countOf("hammer", "nail.driven", 1000 + id, began + id, { lane: String(id % 7) }), base)).toBe(
      200,
    );
  for (const id of acknowledged.slice(0, 50))
    expect(await post(countOf("hammer", "nail.driven", 1000 + id, began + id, { lane: String(id % 7) }), base)).toBe(
      200,
    );
  await killHard(intake);

  expect(acknowledged.length).toBeGreaterThan(500);
  const wanted = Array.from({ length: next }, (_, id) => 1000 + id).reduce((sum, value) => sum + value, 0);
  const { series } = await read("count of nail.driven", began - 1000, began + next + 1000);
  expect(series[0].total).toBe(wanted);
  const byLane = await read("count of nail.driven by lane", began - 1000, began + next + 1000);
  expect(byLane.series).toHaveLength(7);
});

test("a database that drops every connection, again and again: nothing acknowledged is lost, and all goes on", async () => {
  const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL, max: 1 });
  const began = Date.now() - 7_200_000;
  const acknowledged: number[] = [];
  const unsure: number[] = [];
  let next = 0;
  let running = true;
  const worker = async () => {
    while (running) {
      const id = next++;
      const status = await post(countOf("hammer", "tack.pushed", 1000 + id, began + id));
      (status === 200 ? acknowledged : unsure).push(id);
    }
  };
  const load = Promise.all(Array.from({ length: 6 }, worker));
  for (let round = 0; round < 6; round++) {
    await new Promise((resolve) => setTimeout(resolve, 300));
    await pool.query(
      "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()",
    );
  }
  await new Promise((resolve) => setTimeout(resolve, 300));
  running = false;
  await load;
  await pool.end();
  for (const id of unsure) {
    await expect.poll(() => post(countOf("hammer", "tack.pushed", 1000 + id, began + id))).toBe(200);
  }
  expect(acknowledged.length).toBeGreaterThan(100);
  const wanted = Array.from({ length: next }, (_, id) => 1000 + id).reduce((sum, value) => sum + value, 0);
  // The engine's connections were dropped too: its first answer may be a failure, the next is not.
  await expect
    .poll(() =>
      read("count of tack.pushed", began - 1000, began + next + 1000).then(
        ({ series }) => series[0].total,
        () => null,
      ),
    )
    .toBe(wanted);
});
