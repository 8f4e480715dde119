import { expect, test } from "@playwright/test";
import pg from "pg";
import { hammer, wait } from "./hammer";
import { freePort, INTAKE, killHard, startIntake } from "./helpers";

test("kill -9 of the intake during a load: every acknowledged point is there, once", async () => {
  test.setTimeout(120_000);
  const port = await freePort();
  let intake = await startIntake(port);
  const nails = hammer("nail.driven", Date.now() - 3_600_000, 12, () => `http://127.0.0.1:${port}`);
  for (let round = 0; round < 4; round++) {
    await nails.until(30);
    await wait(400);
    await killHard(intake);
    intake = await startIntake(port);
  }
  await nails.until(30);
  await nails.stop();

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
  test.setTimeout(120_000);
  const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL, max: 1 });
  const tacks = hammer("tack.pushed", Date.now() - 7_200_000, 6, () => INTAKE);
  for (let round = 0; round < 6; round++) {
    await tacks.until(20);
    await pool.query(
      "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()",
    );
  }
  await tacks.until(20);
  await tacks.stop();
  await pool.end();
  for (const id of tacks.unsure) await expect.poll(() => tacks.send(id)).toBe(200);
  // The engine's connections were dropped too: its first answer may be a failure, the next is not.
  const total = () =>
    tacks.counted().then(
      (series) => series[0].total,
      () => null,
    );
  await expect.poll(total).toBe(tacks.wanted());
});
