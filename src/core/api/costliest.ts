/** Metrics that the Store page lists at once. */
export const COSTLIEST = 100;
