import { standsElsewhere } from "../database/partitions";
import type { BackgroundJob } from "../jobs/job";
import { sumUses } from "./metricUse";
import { sumStrips } from "./stripSums";

/** Counts what pages tell of the whole store, so that none of them has to. */
export const SUMMING: BackgroundJob = {
  name: "summing",
  does: "count what is stored",
  every: 10_000,
  looksAtAll: true,
  pass: async (pool, now, stopped) => {
    // On other servers, statistics are theirs: there is nothing here to tell a change by.
    const elsewhere = await standsElsewhere(pool);
    const failures: unknown[] = [];
    const partitions = elsewhere ? 0 : await sumStrips(pool, stopped, (error) => failures.push(error));
    const metrics = stopped() ? 0 : await sumUses(pool, now, elsewhere);
    // Told once the rest is done.
    if (failures.length > 0) throw failures[0];
    return { done: partitions + metrics, backlog: 0, waitingSince: null };
  },
};
