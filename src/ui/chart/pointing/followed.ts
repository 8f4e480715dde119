/** Something that changes with each move of the pointer, outside React: only those follow it who ask. */
export class Followed<T> {
  protected now: T | null = null;
  protected readonly listeners = new Set<() => void>();

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

/** How long what is not in hand waits until it follows the pointer, and from one turn to the next, ms. */
const PACE = 60;
const FRAME = 16;
/** Those who are told in one turn: what they draw of it has to fit into a frame. */
const AT_ONCE = 2;

/** Follows another at a pace, and tells of it a few at a time: at rest all know the same. */
export class Paced<T> extends Followed<T> {
  private timer: ReturnType<typeof setTimeout> | null = null;
  /** Who was not told yet, in the turns that go on. */
  private left: (() => void)[] = [];
  /** What the first was told in them. */
  private begun: T | null = null;

  constructor(private readonly ahead: Followed<T>) {
    super();
    ahead.subscribe(() => {
      if (ahead.get() !== null) this.timer ??= setTimeout(this.turn, PACE);
      else {
        if (this.timer !== null) clearTimeout(this.timer);
        this.timer = null;
        this.left = [];
        this.set(null);
      }
    });
  }

  private turn = (): void => {
    this.now = this.ahead.get();
    if (this.left.length === 0) {
      this.left = [...this.listeners];
      this.begun = this.now;
    }
    for (const heard of this.left.splice(0, AT_ONCE)) if (this.listeners.has(heard)) heard();
    if (this.left.length > 0) this.timer = setTimeout(this.turn, FRAME);
    else this.timer = this.now === this.begun ? null : setTimeout(this.turn, PACE);
  };
}
