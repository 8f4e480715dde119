/** Repeatable randomness for the demonstration. */
export type Random = () => number;

/** Mulberry32: small, fast, and the same sequence for the same seed everywhere. */
export function seeded(seed: number): Random {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296;
  };
}

/** A standard normal number (Box and Muller 1958). */
export function normal(random: Random): number {
  return Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
}

/** A Poisson number: by inversion where the mean is small, else by the normal approximation. */
export function poisson(random: Random, mean: number): number {
  if (mean <= 0) return 0;
  if (mean > 30) return Math.max(0, Math.round(mean + Math.sqrt(mean) * normal(random)));
  let chance = Math.exp(-mean);
  let rest = random();
  let count = 0;
  while (rest > chance && count < 200) {
    rest -= chance;
    count++;
    chance *= mean / count;
  }
  return count;
}
