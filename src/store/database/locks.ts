/** First half of the lock on a metric's strips. */
export const METRIC_LOCK = 7433;
