import { endClusters, newCluster, restartCluster } from "../e2e/clusters";
import { wait } from "../e2e/hammer";
import { freePort, killHard, read, startIntake, startWeb } from "../e2e/helpers";
import { memoryOf } from "./memory";
import { postProtobuf, Sender } from "./sender";

/** A load at half of the write limit on two intakes, with processes killed and the database restarted meanwhile. */

const SENDERS = 24;
/** By how much a load is drawn out until an intake was killed twice and the database restarted, ms. */
const AT_MOST_LONGER = 180_000;
/** For how long the write limit is measured, ms. */
const LIMIT_TIME = 8000;

export interface Report {
  /** Points per second that were written when nothing held back. */
  limit: number;
  /** Points per second that were aimed at, and acknowledged. */
  aimed: number;
  written: number;
  points: number;
  kills: number;
  restarts: number;
  /** What was counted by the senders, and by readings in the end. */
  wanted: { delta: number; cumulative: number };
  counted: { delta: number; cumulative: number };
  /** Answers of readings during the load: how many, how many failed, and the median time, ms. */
  readings: { answered: number; failed: number; median: number };
  /** Resident memory, MiB: the median of the second quarter of the time, and of the last. */
  memory: Record<string, { early: number; late: number }>;
}

function median(values: readonly number[]): number {
  const sorted = values.filter((value) => !Number.isNaN(value)).sort((a, b) => a - b);
  return sorted[sorted.length >> 1] ?? Number.NaN;
}

/** Sends one export after the other until told to stop; each is sent again until it is acknowledged. */
async function drive(sender: Sender, base: () => string, pace: () => Promise<boolean>, done: (points: number) => void) {
  while (await pace()) {
    const { body, points } = sender.next(Date.now());
    for (;;) {
      const status = await postProtobuf(base(), body);
      if (status === 200) break;
      await wait(100);
    }
    done(points);
  }
}

/**
 * Runs a soak on a cluster of its own.
 *
 * @param seconds length of the load, after the limit was measured
 * @param killEvery seconds between two kills of an intake, on average
 */
export async function soak(seconds: number, killEvery: number, say: (text: string) => void): Promise<Report> {
  const cluster = await newCluster("soak");
  const env = { DATABASE_URL: cluster.url };
  const ports = [await freePort(), await freePort()];
  const intakes = await Promise.all(ports.map((port) => startIntake(port, env)));
  const webPort = await freePort();
  const web = await startWeb(webPort, env);
  const webBase = `http://127.0.0.1:${webPort}`;
  const begun = Date.now() - 1000;
  const senders = Array.from({ length: SENDERS }, (_, i) => new Sender(`soak-${i}`, begun));
  const base = (i: number) => () => `http://127.0.0.1:${ports[i % 2]}`;
  const load = (pace: () => Promise<boolean>, done: (points: number) => void) =>
    Promise.all(senders.map((sender, i) => drive(sender, base(i), pace, done)));
  const memory = { intakes: [] as number[], web: [] as number[] };
  try {
    let unheld = 0;
    const end = Date.now() + LIMIT_TIME;
    await load(
      async () => Date.now() < end,
      (points) => {
        unheld += points;
      },
    );
    const limit = unheld / ((Date.now() - (end - LIMIT_TIME)) / 1000);
    const aimed = limit / 2;
    say(`write limit ${Math.round(limit)} points/s; going on at half of it for ${seconds} s`);

    const from = Date.now();
    const until = from + seconds * 1000;
    let points = 0;
    let allowed = 0;
    let kills = 0;
    let restarts = 0;
    // On a slow machine what has to happen takes longer than the time that was meant for it.
    const isOver = () => Date.now() >= until && ((kills > 1 && restarts > 0) || Date.now() >= until + AT_MOST_LONGER);
    const pace = async () => {
      for (;;) {
        const now = Date.now();
        if (isOver()) return false;
        if (allowed <= ((now - from) / 1000) * aimed) break;
        await wait(5);
      }
      allowed += 200;
      return true;
    };
    const trouble = (async () => {
      let nextKill = from + killEvery * 500;
      while (!isOver()) {
        await wait(250);
        if (restarts === 0 && Date.now() > (from + until) / 2) {
          say("restarting the database");
          await restartCluster(cluster);
          restarts++;
        }
        if (Date.now() < nextKill) continue;
        nextKill = Date.now() + killEvery * 1000 * (0.5 + Math.random());
        const which = kills % 2;
        await killHard(intakes[which]);
        kills++;
        intakes[which] = await startIntake(ports[which], env);
      }
    })();
    const times: number[] = [];
    let failed = 0;
    const watch = (async () => {
      for (let turn = 0; !isOver(); turn++) {
        await wait(1000);
        memory.intakes.push(...intakes.map(memoryOf));
        memory.web.push(memoryOf(web));
        const began = performance.now();
        const now = Date.now();
        await read("rate of soak.cumulative by lane top 5", now - 15 * 60_000, now, "", webBase).then(
          () => times.push(performance.now() - began),
          () => failed++,
        );
        if (turn % 30 === 29) say(`${points} points, ${kills} kills, reading ${Math.round(median(times))} ms`);
      }
    })();
    await Promise.all([
      load(pace, (more) => {
        points += more;
      }),
      trouble,
      watch,
    ]);
    const took = (Date.now() - from) / 1000;
    const total = async (metric: string) =>
      (await read(`count of ${metric}`, begun - 60_000, Date.now() + 60_000, "1h", webBase)).series[0].total!;
    const counted = { delta: await total("soak.delta"), cumulative: await total("soak.cumulative") };
    const wanted = senders.reduce(
      (sum, sender) => ({
        delta: sum.delta + sender.counted.delta,
        cumulative: sum.cumulative + sender.counted.cumulative,
      }),
      { delta: 0, cumulative: 0 },
    );
    const quarters = (all: readonly number[]) => ({
      early: Math.round(median(all.slice(all.length / 4, all.length / 2))),
      late: Math.round(median(all.slice((all.length * 3) / 4))),
    });
    return {
      limit: Math.round(limit),
      aimed: Math.round(aimed),
      written: Math.round(points / took),
      points: points + unheld,
      kills,
      restarts,
      wanted,
      counted,
      readings: { answered: times.length, failed, median: Math.round(median(times)) },
      memory: { intakes: quarters(memory.intakes), web: quarters(memory.web) },
    };
  } finally {
    for (const child of [...intakes, web]) await killHard(child);
    await endClusters([cluster]);
  }
}
