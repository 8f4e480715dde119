/** Does something when the browser has nothing else to do, or after so long, ms, all the same. */
export function whenIdle(work: () => void, patience: number): void {
  if (typeof requestIdleCallback === "undefined") setTimeout(work, 50);
  else requestIdleCallback(work, { timeout: patience });
}
