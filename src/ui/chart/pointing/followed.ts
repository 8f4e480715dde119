/** Something that changes with each move of the pointer, outside React: only those follow it who ask. */
export class Followed<T> {
  private now: T | null = null;
  private readonly listeners = new Set<() => void>();

  get = (): T | null => this.now;

  set = (next: T | null): void => {
    if (next === this.now) return;
    this.now = next;
    for (const heard of this.listeners) heard();
  };

  subscribe = (heard: () => void): (() => void) => {
    this.listeners.add(heard);
    return () => this.listeners.delete(heard);
  };
}

/** How often what is not in hand follows the pointer, ms. */
const PACE = 80;

/** Follows another at a pace: at rest both are the same. */
export class Paced<T> extends Followed<T> {
  private timer: ReturnType<typeof setTimeout> | null = null;

  constructor(ahead: Followed<T>) {
    super();
    ahead.subscribe(() => {
      if (ahead.get() === null) this.set(null);
      else
        this.timer ??= setTimeout(() => {
          this.timer = null;
          this.set(ahead.get());
        }, PACE);
    });
  }
}
