/**
 * What waits for one of several threads. Each thread has its own kinds of work, whose data it keeps, and takes those first; a
 * thread that has nothing of its own left takes what waits for another: to fetch it anew costs less than to stand idle.
 */
export class JobQueue<T> {
  private waiting: { item: T; home: number }[] = [];

  /** @param most items that may wait */
  constructor(private readonly most: number) {}

  get size(): number {
    return this.waiting.length;
  }

  /** @param home the thread that it is best done by. @returns whether there was room */
  put(item: T, home: number): boolean {
    if (this.waiting.length >= this.most) return false;
    this.waiting.push({ item, home });
    return true;
  }

  /** What a thread does next: the oldest of its own, else the oldest of all; undefined where nothing waits. */
  take(thread: number): T | undefined {
    const own = this.waiting.findIndex(({ home }) => home === thread);
    return this.waiting.splice(Math.max(0, own), 1).at(0)?.item;
  }

  /** Nobody waits for it any more. @returns whether it was still there */
  remove(item: T): boolean {
    const place = this.waiting.findIndex((one) => one.item === item);
    if (place < 0) return false;
    this.waiting.splice(place, 1);
    return true;
  }
}
