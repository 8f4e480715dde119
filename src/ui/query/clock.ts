/** A clock that moves on now and then, and tells those who listen. */
export class Clock {
  private readonly listeners = new Set<() => void>();

  /** @param now Unix ms */
  constructor(public now: number) {}

  set(now: number): void {
    if (now === this.now) return;
    this.now = now;
    for (const heard of this.listeners) heard();
  }

  subscribe = (heard: () => void): (() => void) => {
    this.listeners.add(heard);
    return () => this.listeners.delete(heard);
  };
}
