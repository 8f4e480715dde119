/** Where an item comes from and where it is best done. */
export interface Place {
  /** Who waits for it. */
  caller: string;
  /** The thread that keeps its data. */
  home: number;
}

/** What an item that finds no room is refused for: its caller has too many waiting, or all have. */
export type NoRoom = "caller" | "all";

/**
 * What waits for one of several threads. The caller who used least thread time lately is next, so that one caller's work delays
 * nobody else's. Of a caller's own items a thread takes first those whose data it keeps; one that has nothing of its own left
 * takes what waits for another: to fetch it anew costs less than to stand idle.
 */
export class FairQueue<T> {
  private waiting: (Place & { item: T })[] = [];

  /** @param limits items that may wait, of all callers together and of one */
  constructor(private readonly limits: { all: number; caller: number }) {}

  get size(): number {
    return this.waiting.length;
  }

  /** Puts an item at the end. @returns why there is no room; null where there was */
  put(item: T, place: Place): NoRoom | null {
    if (this.waiting.length >= this.limits.all) return "all";
    const own = this.waiting.reduce((sum, { caller }) => sum + Number(caller === place.caller), 0);
    if (own >= this.limits.caller) return "caller";
    this.waiting.push({ ...place, item });
    return null;
  }

  /**
   * What a thread does next; undefined where nothing waits that it may do.
   *
   * @param loadOf what a caller used lately: the least goes first, the oldest of equal ones
   * @param may whether the thread may work for a caller now
   */
  take(thread: number, loadOf: (caller: string) => number, may: (caller: string) => boolean): T | undefined {
    const loads = new Map<string, number>();
    for (const { caller } of this.waiting)
      if (!loads.has(caller)) loads.set(caller, may(caller) ? loadOf(caller) : Number.POSITIVE_INFINITY);
    let next: string | null = null;
    for (const [caller, load] of loads)
      if (load < (next === null ? Number.POSITIVE_INFINITY : loads.get(next)!)) next = caller;
    if (next === null) return undefined;
    const own = this.waiting.findIndex(({ caller, home }) => caller === next && home === thread);
    const place = own >= 0 ? own : this.waiting.findIndex(({ caller }) => caller === next);
    return this.waiting.splice(place, 1)[0].item;
  }

  /** Nobody waits for it any more. @returns whether it was still there */
  remove(item: T): boolean {
    const place = this.waiting.findIndex((one) => one.item === item);
    if (place < 0) return false;
    this.waiting.splice(place, 1);
    return true;
  }
}
