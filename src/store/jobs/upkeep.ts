import type pg from "pg";
import { DAY, MINUTE } from "@/core/window/lengths";
import { isDamage } from "../database/contentError";
import { RAW } from "../database/partitions";
import { forgetBufferedSeries } from "../pipeline/bufferedSeries";
import { keepRecords } from "../records/records";
import { forgetRequests } from "../records/repeats";
import { setAsideDamaged } from "../strips/damagedStrips";
import { runTask } from "../strips/merge";
import { dropExpired, longestKeep, prepareAhead } from "../strips/retention";
import { hourTasks, longHourTasks, longMinuteTasks, longTasks, shortTasks, type Task } from "../strips/tasks";
import type { BackgroundJob, Done, Stopped } from "./job";

/** The store's upkeep: merging, rolling up, retention. */

type Find = (client: pg.Pool, now: number) => Promise<Task[]>;

/** Does a piece of work; one that is stopped by what it is about is left, and what stops it set aside. */
async function finished(pool: pg.Pool, task: Task): Promise<boolean> {
  try {
    await runTask(pool, task);
    return true;
  } catch (error) {
    if (!isDamage(error)) throw error;
    // What is left of it goes on in the next pass.
    await setAsideDamaged(pool, task);
    return false;
  }
}

async function doAll(pool: pg.Pool, finds: readonly Find[], now: number, stopped: Stopped): Promise<Done> {
  let done = 0;
  const left: Task[] = [];
  for (const find of finds) {
    const found = await find(pool, now);
    for (const task of found) {
      if (stopped()) break;
      if (await finished(pool, task)) done++;
    }
    // Where there was nothing to do, nothing is left of it.
    if (found.length > 0) left.push(...(await find(pool, now)));
  }
  const waitingSince = left.reduce<number | null>((least, { due }) => Math.min(least ?? due, due), null);
  return { done, backlog: left.length, waitingSince };
}

export const MERGING: BackgroundJob = {
  name: "merging",
  does: "merge strips, roll up to minutes",
  every: 20_000,
  pass: (pool, now, stopped) => doAll(pool, [shortTasks, longTasks], now, stopped),
};

/** Rolls days up to hours, and joins the minutes and hours of long ago. */
export const HOURS: BackgroundJob = {
  name: "hours",
  does: "roll up to hours",
  every: 5 * MINUTE,
  pass: (pool, now, stopped) => {
    // Whose points are gone as they arrived gets no late ones any more.
    const settled = async (client: pg.Pool, at: number) => at - (await longestKeep(client, RAW)) - 2 * DAY;
    const minutes: Find = async (client, at) => longMinuteTasks(client, await settled(client, at));
    const hours: Find = async (client, at) => longHourTasks(client, await settled(client, at));
    return doAll(pool, [hourTasks, minutes, hours], now, stopped);
  },
};

/** Creates partitions ahead and deletes what is too old. */
export const RETENTION: BackgroundJob = {
  name: "retention",
  does: "make room: partitions ahead and behind",
  every: 10 * MINUTE,
  pass: async (pool, now) => {
    await prepareAhead(pool, now);
    const expired = await dropExpired(pool, now);
    const records =
      (await keepRecords(pool, now)) + (await forgetBufferedSeries(pool, now)) + (await forgetRequests(pool, now));
    const done = expired.reduce((sum, { partitions, rows }) => sum + partitions.length + rows, records);
    return { done, backlog: 0, waitingSince: null };
  },
};
