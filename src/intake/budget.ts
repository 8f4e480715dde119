/** As much is held as may be; the sender should try again later. */
export class FullError extends Error {
  override name = "FullError";
}

/** Bytes that all requests in work may hold together. */
export class Budget {
  private held = 0;

  constructor(private readonly most: number) {}

  /** @throws FullError where it would be too much */
  take(bytes: number): void {
    if (this.held + bytes > this.most) throw new FullError(`${this.held} bytes of other requests are in work`);
    this.held += bytes;
  }

  give(bytes: number): void {
    this.held -= bytes;
  }
}

/** What one request took of a budget. */
export class Hold {
  private taken = 0;

  constructor(private readonly budget: Budget) {}

  take(bytes: number): void {
    this.budget.take(bytes);
    this.taken += bytes;
  }

  release(): void {
    this.budget.give(this.taken);
    this.taken = 0;
  }
}
