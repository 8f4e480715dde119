import { expect, test } from "@playwright/test";
import pg from "pg";
import { hammer, wait } from "./hammer";
import { freePort, INTAKE, killHard, startIntake } from "./helpers";

/** Ten log records of a request that has this number, equal but for it. */
function logsOf(service: string, request: number): string {
  const attribute = (key: string, stringValue: string) => ({ key, value: { stringValue } });
  const logRecords = Array.from({ length: 10 }, () => ({
    timeUnixNano: `${Date.now() - (Date.now() % 60_000)}000000`,
    body: { stringValue: `request ${request}` },
  }));
  const resource = { attributes: [attribute("service.name", service)] };
  return JSON.stringify({ resourceLogs: [{ resource, scopeLogs: [{ logRecords }] }] });
}

/** @returns the status; 0 where nobody answered */
function postLogs(body: string, base: string): Promise<number> {
  return fetch(`${base}/v1/logs`, { method: "POST", headers: { "Content-Type": "application/json" }, body }).then(
    async (response) => {
      await response.arrayBuffer();
      return response.status;
    },
    () => 0,
  );
}

/** How many records are stored of each body of a service. */
async function recordsOf(pool: pg.Pool, service: string): Promise<Map<string, number>> {
  const { rows } = await pool.query<{ body: string; count: string }>(
    `SELECT l.body #>> '{}' AS body, count(*) FROM log_record l JOIN resource r ON r.id = l.resource_id
     WHERE r.service = $1 GROUP BY 1`,
    [service],
  );
  return new Map(rows.map(({ body, count }) => [body, Number(count)]));
}

test("kill -9 of the intake during a load: every acknowledged point is there, once", async () => {
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
  await nails.again();
  expect((await nails.counted())[0].total).toBe(nails.wanted());
  expect(await nails.counted("by lane")).toHaveLength(7);

  // Repeats of what is there count once.
  for (const id of nails.acknowledged.slice(0, 50)) expect(await nails.send(id)).toBe(200);
  expect((await nails.counted())[0].total).toBe(nails.wanted());
  await killHard(intake);
});

test("a database that drops every connection, again and again: nothing acknowledged is lost, and all goes on", async () => {
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
  await tacks.again();
  // The engine's connections were dropped too: its first answer may be a failure, the next is not.
  const total = () =>
    tacks.counted().then(
      (series) => series[0].total,
      () => null,
    );
  await expect.poll(total).toBe(tacks.wanted());
});

test("log records of requests that are sent again after kill -9, or to two intakes at once, are stored once", async () => {
  const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL, max: 1 });
  const port = await freePort();
  const base = `http://127.0.0.1:${port}`;
  let intake = await startIntake(port);
  const unanswered: string[] = [];
  let next = 0;
  let answered = 0;
  let running = true;
  const loop = async () => {
    while (running) {
      const body = logsOf("diary", next++);
      if ((await postLogs(body, base)) === 200) answered++;
      else {
        unanswered.push(body);
        await wait(150);
      }
    }
  };
  const load = Promise.all(Array.from({ length: 12 }, loop));
  for (let round = 0; round < 4; round++) {
    const enough = answered + 50;
    while (answered < enough) await wait(10);
    await killHard(intake);
    intake = await startIntake(port);
  }
  running = false;
  await load;
  const again = async () => {
    for (let body = unanswered.pop(); body; body = unanswered.pop()) expect(await postLogs(body, base)).toBe(200);
  };
  await Promise.all(Array.from({ length: 6 }, again));
  const diary = await recordsOf(pool, "diary");
  expect(diary.size).toBe(next);
  expect(new Set(diary.values())).toEqual(new Set([10]));

  // The same at the same time, at one process and at two.
  for (let request = 0; request < 30; request++) {
    const body = logsOf("echo", request);
    const answers = await Promise.all([base, INTAKE, base, INTAKE].map((one) => postLogs(body, one)));
    expect(answers).toEqual([200, 200, 200, 200]);
  }
  const echo = await recordsOf(pool, "echo");
  expect(echo.size).toBe(30);
  expect(new Set(echo.values())).toEqual(new Set([10]));
  await pool.end();
  await killHard(intake);
});
