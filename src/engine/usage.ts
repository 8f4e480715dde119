/** What is used up counts half as much after so long, ms. */
const HALF_LIFE = 10_000;

interface Used {
  /** Thread time at the moment `at`, ms. */
  ms: number;
  at: number;
}

/** How much thread time each caller used lately, in ms: what was used is halved every ten seconds. */
export class Usage {
  private readonly used = new Map<string, Used>();

  /** Adds thread time of a caller, ms. @param now Unix ms */
  add(caller: string, ms: number, now: number): void {
    this.used.set(caller, { ms: this.of(caller, now) + ms, at: now });
    for (const [other, { at }] of this.used) {
      if (now - at < 10 * HALF_LIFE) break;
      this.used.delete(other);
    }
  }

  /** What a caller used lately, ms. */
  of(caller: string, now: number): number {
    const found = this.used.get(caller);
    return found ? found.ms * 0.5 ** ((now - found.at) / HALF_LIFE) : 0;
  }
}
