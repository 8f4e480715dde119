import type pg from "pg";
import { DAY } from "@/core/window/lengths";
import { isContentError } from "../database/contentError";
import { RAW } from "../database/partitions";
import { forgetBufferedSeries } from "../pipeline/bufferedSeries";
import { keepRecords } from "../records/records";
import { forgetRequests } from "../records/repeats";
import { setAsideDamaged } from "../strips/damagedStrips";
import { runTask } from "../strips/merge";
import { dropExpired, longestKeep, prepareAhead } from "../strips/retention";
import { hourTasks, longHourTasks, longTasks, shortTasks, type Task } from "../strips/tasks";
import { type Done, holding } from "./jobs";

/** The store's upkeep as jobs. Each does all that is due and returns; callers repeat them. */

export const MERGE_EVERY = 20_000;
export const HOURS_EVERY = 5 * 60_000;
export const PURGE_EVERY = 2_000;
export const RETENTION_EVERY = 10 * 60_000;

type Find = (client: pg.Pool, now: number) => Promise<Task[]>;
type Stopped = () => boolean;

/** Does a piece of work; one that is stopped by what it is about is left, and what stops it set aside. */
async function finished(pool: pg.Pool, task: Task): Promise<boolean> {
  try {
    await runTask(pool, task);
    return true;
  } catch (error) {
    if (!isContentError(error)) throw error;
    // What is left of it goes on in the next pass.
    await setAsideDamaged(pool, task);
    return false;
  }
}

async function doAll(pool: pg.Pool, finds: readonly Find[], now: number, stopped: Stopped): Promise<Done> {
  let done = 0;
  for (const find of finds) {
    for (const task of await find(pool, now)) {
      if (stopped()) break;
      if (await finished(pool, task)) done++;
    }
  }
  const left = (await Promise.all(finds.map((find) => find(pool, now)))).flat();
  const waitingSince = left.reduce<number | null>((least, { due }) => Math.min(least ?? due, due), null);
  return { done, backlog: left.length, waitingSince };
}

const never = () => false;

/** Merges what is due. @returns null where another process is at it */
export function mergeDue(pool: pg.Pool, now = Date.now(), stopped: Stopped = never): Promise<Done | null> {
  return holding(pool, "merging", () => doAll(pool, [shortTasks, longTasks], now, stopped));
}

/** Rolls days up to hours where that is due, and joins the hours of long ago. */
export function rollDue(pool: pg.Pool, now = Date.now(), stopped: Stopped = never): Promise<Done | null> {
  const settledHours: Find = async (client, at) =>
    longHourTasks(client, at - (await longestKeep(client, RAW)) - 2 * DAY);
  return holding(pool, "hours", () => doAll(pool, [hourTasks, settledHours], now, stopped));
}

/** Creates partitions ahead and deletes what is too old. */
export function keepRetention(pool: pg.Pool, now = Date.now()): Promise<Done | null> {
  return holding(pool, "retention", async () => {
    await prepareAhead(pool, now);
    const expired = await dropExpired(pool, now);
    const records =
      (await keepRecords(pool, now)) + (await forgetBufferedSeries(pool, now)) + (await forgetRequests(pool, now));
    const done = expired.reduce((sum, { partitions, rows }) => sum + partitions.length + rows, records);
    return { done, backlog: 0, waitingSince: null };
  });
}
