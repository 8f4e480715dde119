/** Numbers by chance that a seed repeats (mulberry32). */
export class Random {
  constructor(private state: number) {}

  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0;
    let t = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  }

  below(most: number): number {
    return Math.floor(this.next() * most);
  }

  between(least: number, most: number): number {
    return least + this.below(most - least + 1);
  }

  chance(part: number): boolean {
    return this.next() < part;
  }

  of<T>(all: readonly T[]): T {
    return all[this.below(all.length)];
  }

  shuffled<T>(all: readonly T[]): T[] {
    const list = [...all];
    for (let i = list.length - 1; i > 0; i--) {
      const j = this.below(i + 1);
      [list[i], list[j]] = [list[j], list[i]];
    }
    return list;
  }
}
