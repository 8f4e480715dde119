import { expect, test } from "@playwright/test";
import pg from "pg";
import { countOf, freePort, INTAKE, killHard, post, read, startIntake } from "./helpers";

const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/**
 * Sends points of one counter from several loops at once. Each has a millisecond and a value of its own, so that a
 * lost or a doubled one shows in the sum.
 */
function hammer(metric: string, began: number, loops: number, base: string) {
  const acknowledged: number[] = [];
  const unsure: number[] = [];
  let next = 0;
  let running = true;
  const send = (id: number) => post(countOf("hammer", metric, 1000 + id, began + id, { lane: String(id % 7) }), base);
  const loop = async () => {
    while (running) {
      const id = next++;
      const status = await send(id);
      (status === 200 ? acknowledged : unsure).push(id);
      if (status !== 200) await wait(20);
    }
  };
  const load = Promise.all(Array.from({ length: loops }, loop));
  return {
    acknowledged,
    unsure,
    send,
    stop: async () => {
      running = false;
      await load;
    },
    wanted: () => Array.from({ length: next }, (_, id) => 1000 + id).reduce((sum, value) => sum + value, 0),
    counted: async (clause = "") =>
      (await read(`count of ${metric} ${clause}`, began - 1000, began + next + 1000)).series,
  };
}

test("kill -9 of the intake during a load: every acknowledged point is there, once", async () => {
  test.setTimeout(120_000);
  const port = await freePort();
  let intake = await startIntake(port);
  const nails = hammer("nail.driven", Date.now() - 3_600_000, 12, `http://127.0.0.1:${port}`);
  for (let round = 0; round < 4; round++) {
    await wait(1200);
    await killHard(intake);
    intake = await startIntake(port);
  }
  await nails.stop();
  expect(nails.acknowledged.length).toBeGreaterThan(500);

  // What was not acknowledged is sent again, as an exporter would; what was must be there without.
  for (const id of nails.unsure) expect(await nails.send(id)).toBe(200);
  expect((await nails.counted())[0].total).toBe(nails.wanted());
  expect(await nails.counted("by lane")).toHaveLength(7);

  // Repeats of what is there count once.
  for (const id of nails.acknowledged.slice(0, 50)) expect(await nails.send(id)).toBe(200);
  expect((await nails.counted())[0].total).toBe(nails.wanted());
  await killHard(intake);
});

test("a database that drops every connection, again and again: nothing acknowledged is lost, and all goes on", async () => {
  const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL, max: 1 });
  const tacks = hammer("tack.pushed", Date.now() - 7_200_000, 6, INTAKE);
  for (let round = 0; round < 6; round++) {
    await wait(300);
    await pool.query(
      "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()",
    );
  }
  await wait(300);
  await tacks.stop();
  await pool.end();
  expect(tacks.acknowledged.length).toBeGreaterThan(100);
  for (const id of tacks.unsure) await expect.poll(() => tacks.send(id)).toBe(200);
  // The engine's connections were dropped too: its first answer may be a failure, the next is not.
  const total = () =>
    tacks.counted().then(
      (series) => series[0].total,
      () => null,
    );
  await expect.poll(total).toBe(tacks.wanted());
});
