/** Locks of the database that processes take, so that one at a time does a thing (PostgreSQL's advisory locks). */

/** First half of the lock on a metric's strips. */
export const METRIC_LOCK = 7433;

/** Of whole things: a number each, which nothing else may have. */
export const LOCKS = {
  migration: 7433001,
  partitions: 7433002,
  merging: 7433003,
  hours: 7433004,
  retention: 7433005,
  purging: 7433006,
  scraping: 7433007,
  contracts: 7433008,
  conformance: 7433009,
  pipeline: 7433010,
  exporting: 7433011,
  registry: 7433012,
  summing: 7433013,
} as const;
