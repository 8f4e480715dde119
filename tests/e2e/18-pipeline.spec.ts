import { expect, test } from "@playwright/test";
import { countOf, freePort, INTAKE, killHard, post, read, startIntake, WEB } from "./helpers";

interface Live {
  live: { id: number; config: { metrics: object[] } };
  waiting: { step: string; points: number }[];
}

async function pipeline(): Promise<Live> {
  return (await (await fetch(`${WEB}/api/pipeline`)).json()) as Live;
}

async function publish(metrics: object[], note: string): Promise<void> {
  const { live } = await pipeline();
  const response = await fetch(`${WEB}/api/pipeline`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ config: { metrics }, who: "Ottilie", note, based: live.id }),
  });
  expect(response.status).toBe(201);
}

test.afterAll(async () => {
  await publish([], "nothing any more");
});

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

async function total(text: string): Promise<number> {
  const now = Date.now();
  const { series } = await read(text, now - 900_000, now + 120_000, "1h");
  return series.reduce((sum, one) => sum + (one.total ?? 0), 0);
}

test("merged while it runs, and every point counts once: killed intakes, another version, and back", async () => {
  test.setTimeout(240_000);
  await publish(
    [
      { id: "by-hue", type: "merge", where: 'metric is "thread.spun"', attributes: ["spindle"], every: 2 },
      { id: "noise", type: "drop", where: 'metric is "thread.noise"' },
    ],
    "spindles go",
  );
  await pause(1500);
  let sent = 0;
  let stop = false;
  const accepted = { count: 0, tries: 0 };
  const sender = async (base: string, spindle: string) => {
    for (let i = 0; !stop; i++) {
      // A delta of a moment of its own, sent until somebody took it.
      const body = countOf("mill", "thread.spun", 1 + (i % 3), Date.now(), {
        hue: i % 2 ? "red" : "blue",
        spindle,
      });
      for (;;) {
        accepted.tries++;
        const status = await post(body, base);
        if (status === 200) break;
        if (stop) return;
        await pause(50);
      }
      accepted.count++;
      sent += 1 + (i % 3);
      await pause(5);
    }
  };
  const port = await freePort();
  let second = await startIntake(port);
  const work = [sender(INTAKE, "one"), sender(INTAKE, "two"), sender(`http://127.0.0.1:${port}`, "three")];
  for (let round = 0; round < 3; round++) {
    await pause(2500);
    await killHard(second);
    second = await startIntake(port);
  }
  // Another version, in which the merge stays: what waits and what it remembers go on.
  await publish(
    [{ id: "by-hue", type: "merge", where: 'metric is "thread.spun"', attributes: ["spindle"], every: 2 }],
    "noise may stay",
  );
  await pause(4000);
  // And one without it: its windows are closed, and the spindles come through as they are.
  await publish([], "no pipeline");
  await pause(4000);
  stop = true;
  await Promise.all(work);
  await killHard(second);
  expect(accepted.count).toBeGreaterThan(300);
  await expect.poll(async () => (await pipeline()).waiting.length, { timeout: 30_000 }).toBe(0);
  await expect.poll(() => total("count of thread.spun"), { timeout: 30_000 }).toBe(sent);
  // Merged: only the hue is left; not merged: the spindle is there.
  const merged = await total("count of thread.spun where spindle is missing");
  expect(merged).toBeGreaterThan(sent / 3);
  expect(merged).toBeLessThan(sent);
});

test("what is dropped is not stored, what is renamed is; a draft from an old version is refused", async () => {
  await publish(
    [
      { id: "noise", type: "drop", where: 'metric is "bobbin.noise"' },
      { id: "name", type: "metric", where: 'metric is "bobbin.wound"', to: "bobbin.filled" },
      { id: "key", type: "rename", from: "hue", to: "colour" },
    ],
    "tidier",
  );
  await pause(1500);
  const now = Date.now();
  expect(await post(countOf("mill", "bobbin.noise", 1, now))).toBe(200);
  expect(await post(countOf("mill", "bobbin.wound", 7, now, { hue: "red" }))).toBe(200);
  expect(await total('count of bobbin.filled where colour is "red"')).toBe(7);
  const { instruments } = (await (await fetch(`${WEB}/api/instruments`)).json()) as { instruments: { name: string }[] };
  expect(instruments.map(({ name }) => name)).not.toContain("bobbin.noise");
  const stale = await fetch(`${WEB}/api/pipeline`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ config: { metrics: [] }, who: "Ottilie", note: "from before", based: 1 }),
  });
  expect(stale.status).toBe(409);
  const wrong = await fetch(`${WEB}/api/pipeline`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({
      config: { metrics: [{ id: "a", type: "drop", where: "metric is" }] },
      who: "O",
      note: "n",
      based: 0,
    }),
  });
  expect(await wrong.json()).toMatchObject({ status: 400, detail: expect.stringContaining("config.metrics.0.where") });
});
