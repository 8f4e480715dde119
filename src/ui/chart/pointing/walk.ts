/** Going along a chart by keys. */

const FAR = 10;

/**
 * The step to which a key leads from a moment.
 *
 * @param times ends of the steps, Unix ms, rising
 * @param moment where the crosshair stands; null where there is none yet
 * @param key as the browser names it
 * @returns the end of the step; null takes the crosshair away; undefined where the key does nothing here
 */
export function walk(
  times: readonly number[],
  moment: number | null,
  key: string,
  far: boolean,
): number | null | undefined {
  if (times.length === 0) return undefined;
  if (key === "Escape") return moment === null ? undefined : null;
  if (key === "Home") return times[0];
  if (key === "End") return times[times.length - 1];
  if (key !== "ArrowLeft" && key !== "ArrowRight") return undefined;
  if (moment === null) return times[key === "ArrowLeft" ? times.length - 1 : 0];
  const found = times.findIndex((end) => end >= moment);
  const here = found < 0 ? times.length - 1 : found;
  const next = here + (key === "ArrowLeft" ? -1 : 1) * (far ? FAR : 1);
  return times[Math.min(times.length - 1, Math.max(0, next))];
}
