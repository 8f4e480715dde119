/**
 * Answers that are asked again and again by pages that stay open. Each is kept for a time in proportion to what it cost, so
 * that asking it takes no more than a small part of a processor, however many pages ask and however much there is to
 * count: where little is stored, it is as good as always new. Who asks while it is worked out waits for the same one.
 */
export class Sparing {
  private readonly kept = new Map<string, { value: Promise<unknown>; until: number }>();

  /**
   * @param factor for so many times as long as an answer took it is kept: 50 is two per cent of a processor
   * @param longest that one is kept, ms
   * @param most answers that are kept
   */
  constructor(
    private readonly factor: number,
    private readonly longest: number,
    private readonly most: number,
    private readonly now: () => number = () => performance.now(),
  ) {}

  /** How many answers are kept now. */
  get size(): number {
    return this.kept.size;
  }

  /** The answer that is kept under a key, or a new one. What fails is not kept. */
  answer<T>(key: string, work: () => Promise<T>): Promise<T> {
    const found = this.kept.get(key);
    if (found && this.now() < found.until) return found.value as Promise<T>;
    const began = this.now();
    const value = work();
    const entry = { value, until: began + this.longest };
    this.kept.delete(key);
    this.kept.set(key, entry);
    value.then(
      () => {
        const ended = this.now();
        entry.until = ended + Math.min(this.longest, this.factor * (ended - began));
      },
      () => {
        if (this.kept.get(key) === entry) this.kept.delete(key);
      },
    );
    for (const [other, { until }] of this.kept) if (other !== key && until <= began) this.kept.delete(other);
    for (const oldest of this.kept.keys()) {
      if (this.kept.size <= this.most) break;
      this.kept.delete(oldest);
    }
    return value;
  }

  /** Forgets all: something is another now. What is being worked out still goes to those who wait for it. */
  clear(): void {
    this.kept.clear();
  }
}
