/** Locks of the database that processes take, so that one at a time does a thing (PostgreSQL's advisory locks). */

/** First half of the lock on a metric's strips. */
export const METRIC_LOCK = 7433;

/** First half of the lock of a background job; the other is a hash of its name. */
export const JOB_LOCK = 7434;

/** Of whole things: a number each, which nothing else may have. */
export const LOCKS = {
  migration: 7433001,
  partitions: 7433002,
  scraping: 7433007,
  contracts: 7433008,
  exporting: 7433011,
  sheets: 7433012,
} as const;
