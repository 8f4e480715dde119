import type pg from "pg";
import { DAY, HOUR, MINUTE } from "@/core/window/lengths";
import { HOURS, listPartitions, MINUTES, RAW } from "../database/partitions";
import { HOUR_SPAN, LONG_MERGE_WINDOW, MERGE_WINDOW } from "./mergeWindows";

/** Finds what there is to merge and to roll up. */

/** How long after its end a half hour counts as open: exports that are on their way, ms. */
const GRACE = 2 * MINUTE;
/** The same for two hours: most of what is late comes within this. */
const LONG_GRACE = 10 * MINUTE;
/** The same for a day. */
const DAY_GRACE = 3 * HOUR;
/** Fresh strips of one metric in one half hour that are worth gathering. */
const MANY = 100;

/** A piece of work: strips of a metric that start in [start, start + length). */
export interface Task {
  kind: "gather" | "merge" | "merge long" | "minutes long" | "hours" | "hours long";
  metricId: number;
  start: number;
  length: number;
  /** Since when it could have been done, Unix ms. */
  due: number;
}

/** Half hours that can be merged, and open ones with many fresh strips. */
export async function shortTasks(client: pg.Pool | pg.PoolClient, now: number): Promise<Task[]> {
  const { rows } = await client.query<{ metric_id: number; slot: string; fresh: string }>(
    `SELECT metric_id, floor(t_from::numeric / ${MERGE_WINDOW}) AS slot, count(*) FILTER (WHERE level = 0) AS fresh
     FROM strip WHERE level < 2 AND resolution = ${RAW} GROUP BY 1, 2 ORDER BY 2, 1`,
  );
  return rows.flatMap(({ metric_id, slot, fresh }): Task[] => {
    const common = { metricId: metric_id, start: Number(slot) * MERGE_WINDOW, length: MERGE_WINDOW };
    const due = common.start + MERGE_WINDOW + GRACE;
    if (due <= now) return [{ ...common, kind: "merge", due }];
    return Number(fresh) >= MANY ? [{ ...common, kind: "gather", due: now }] : [];
  });
}

/** Two hours whose half hours are all merged. */
export async function longTasks(client: pg.Pool | pg.PoolClient, now: number): Promise<Task[]> {
  const { rows } = await client.query<{ metric_id: number; slot: string }>(
    `SELECT metric_id, floor(t_from::numeric / ${LONG_MERGE_WINDOW}) AS slot FROM strip
     WHERE level < 3 AND resolution = ${RAW} GROUP BY 1, 2 HAVING min(level) = 2 ORDER BY 2, 1`,
  );
  return rows
    .map(({ metric_id, slot }): Task => {
      const start = Number(slot) * LONG_MERGE_WINDOW;
      const due = start + LONG_MERGE_WINDOW + LONG_GRACE;
      return { kind: "merge long", metricId: metric_id, start, length: LONG_MERGE_WINDOW, due };
    })
    .filter(({ due }) => due <= now);
}

/**
 * Days that are over, have minutes, nothing that is still to be merged, and no hours. Day by day: so the database looks only
 * into what a day can be in, where it would try each day of each metric with all partitions of hours.
 */
export async function hourTasks(client: pg.Pool | pg.PoolClient, now: number): Promise<Task[]> {
  const tasks: Task[] = [];
  const last = now - DAY - DAY_GRACE;
  for (const partition of await listPartitions(client, MINUTES))
    for (let start = partition.from; start < partition.to && start <= last; start += DAY) {
      const { rows } = await client.query<{ metric_id: number }>(
        `SELECT DISTINCT m.metric_id FROM strip m
         WHERE m.resolution = ${MINUTES} AND m.t_from >= $1 AND m.t_from < $2
           AND NOT EXISTS (SELECT FROM strip h WHERE h.metric_id = m.metric_id AND h.resolution = ${HOURS}
             AND h.t_from < $2 AND h.t_from >= $3 AND h.t_to >= $1)
           AND NOT EXISTS (SELECT FROM strip r WHERE r.metric_id = m.metric_id AND r.resolution = ${RAW} AND r.level < 3
             AND r.t_from < $2 AND r.t_from >= $1)
         ORDER BY 1`,
        [start, start + DAY, start - HOUR_SPAN],
      );
      const due = start + DAY + DAY_GRACE;
      tasks.push(
        ...rows.map(({ metric_id }): Task => ({ kind: "hours", metricId: metric_id, start, length: DAY, due })),
      );
    }
  return tasks;
}

/**
 * Days whose minutes stand in strips of two hours each.
 *
 * @param settled days before this moment can no longer get late points
 */
export async function longMinuteTasks(client: pg.Pool | pg.PoolClient, settled: number): Promise<Task[]> {
  const { rows } = await client.query<{ metric_id: number; day: string }>(
    `SELECT DISTINCT metric_id, floor(t_from::numeric / ${DAY}) AS day FROM strip
     WHERE resolution = ${MINUTES} AND level = 3 AND t_from < $1 ORDER BY 2, 1`,
    [settled - DAY],
  );
  return rows
    .map(({ metric_id, day }): Task => {
      const start = Number(day) * DAY;
      return { kind: "minutes long", metricId: metric_id, start, length: DAY, due: start + DAY };
    })
    .filter(({ due }) => due <= settled);
}

/**
 * Sixteen days whose hours stand in strips of a day each.
 *
 * @param settled days before this moment can no longer get late points
 */
export async function longHourTasks(client: pg.Pool | pg.PoolClient, settled: number): Promise<Task[]> {
  const { rows } = await client.query<{ metric_id: number; span: string }>(
    `SELECT DISTINCT metric_id, floor(t_from::numeric / ${HOUR_SPAN}) AS span FROM strip
     WHERE resolution = ${HOURS} AND level < 3 AND t_from < $1 ORDER BY 2, 1`,
    [settled],
  );
  return rows
    .map(({ metric_id, span }): Task => {
      const start = Number(span) * HOUR_SPAN;
      return { kind: "hours long", metricId: metric_id, start, length: HOUR_SPAN, due: start + HOUR_SPAN };
    })
    .filter(({ due }) => due <= settled);
}
