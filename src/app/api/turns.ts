/** Too many of one caller's requests wait. */
export class TooManyTurns extends Error {
  override name = "TooManyTurns";
}

/** Lets each caller have so many requests under way at once; what comes meanwhile waits its turn, up to a limit. */
export class Turns {
  private readonly callers = new Map<string, { underWay: number; waiting: (() => void)[] }>();

  /**
   * @param atOnce of one caller
   * @param waiting that one caller may have beside those
   */
  constructor(private readonly limits: { atOnce: number; waiting: number }) {}

  /** How many callers have something under way. */
  get size(): number {
    return this.callers.size;
  }

  /** Does work in the caller's turn. @throws TooManyTurns at once where too much of the caller's waits */
  async run<T>(caller: string, work: () => Promise<T>): Promise<T> {
    const own = this.callers.get(caller) ?? { underWay: 0, waiting: [] };
    this.callers.set(caller, own);
    if (own.underWay < this.limits.atOnce) own.underWay++;
    else if (own.waiting.length >= this.limits.waiting) throw new TooManyTurns("too many requests of one caller wait");
    // Whoever ends hands the place on.
    else await new Promise<void>((resolve) => own.waiting.push(resolve));
    try {
      return await work();
    } finally {
      const next = own.waiting.shift();
      if (next) next();
      else if (--own.underWay === 0) this.callers.delete(caller);
    }
  }
}
