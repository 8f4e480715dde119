/** As much is held as may be; the sender should try again later. */
export class FullError extends Error {
  override name = "FullError";
}

/** The part of all bytes that the requests of one address may hold while others send too. */
const SHARE = 0.5;

/**
 * Bytes that all requests in work may hold together, counted from the first byte on. One address may hold half of them,
 * so that slow or busy senders at one place leave room for others.
 */
export class Budget {
  private held = 0;
  private readonly byAddress = new Map<string, number>();

  constructor(private readonly most: number) {}

  /** @throws FullError where it would be too much */
  take(bytes: number, address: string): void {
    const own = this.byAddress.get(address) ?? 0;
    if (this.held + bytes > this.most) throw new FullError(`${this.held} bytes of requests are in work`);
    if (this.held > own && own + bytes > this.most * SHARE)
      throw new FullError(`${own} bytes of requests of ${address} are in work`);
    this.held += bytes;
    this.byAddress.set(address, own + bytes);
  }

  give(bytes: number, address: string): void {
    this.held -= bytes;
    const own = (this.byAddress.get(address) ?? 0) - bytes;
    if (own > 0) this.byAddress.set(address, own);
    else this.byAddress.delete(address);
  }
}

/** What one request took of a budget. */
export class BytesInFlight {
  private taken = 0;

  constructor(
    private readonly budget: Budget,
    private readonly address: string,
  ) {}

  take(bytes: number): void {
    this.budget.take(bytes, this.address);
    this.taken += bytes;
  }

  /** Holds so many bytes instead of what it held. */
  set(bytes: number): void {
    this.budget.give(this.taken, this.address);
    this.taken = 0;
    this.take(bytes);
  }

  release(): void {
    this.budget.give(this.taken, this.address);
    this.taken = 0;
  }
}
