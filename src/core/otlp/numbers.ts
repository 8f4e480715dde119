/** A list of doubles that grows and is used again: pushing neither boxes nor re-allocates in the steady state. */
export class Numbers {
  data: Float64Array;
  size = 0;

  constructor(capacity = 32) {
    this.data = new Float64Array(capacity);
  }

  static of(values: readonly number[]): Numbers {
    const numbers = new Numbers(values.length);
    numbers.data.set(values);
    numbers.size = values.length;
    return numbers;
  }

  push(value: number): void {
    if (this.size === this.data.length) this.reserve(1);
    this.data[this.size++] = value;
  }

  /** Makes room for so many more. */
  reserve(more: number): void {
    const wanted = this.size + more;
    if (wanted <= this.data.length) return;
    const grown = new Float64Array(Math.max(wanted, this.data.length * 2, 16));
    grown.set(this.data.subarray(0, this.size));
    this.data = grown;
  }

  /** Appends the numbers of another list from `from` up to `to`. */
  append(other: Numbers, from: number, to: number): void {
    this.reserve(to - from);
    for (let i = from; i < to; i++) this.data[this.size++] = other.data[i];
  }

  equals(list: readonly number[]): boolean {
    if (list.length !== this.size) return false;
    for (let i = 0; i < this.size; i++) if (this.data[i] !== list[i]) return false;
    return true;
  }

  toArray(): number[] {
    return Array.from(this.data.subarray(0, this.size));
  }

  /** The least, or 0 where there are none. */
  least(): number {
    let least = 0;
    for (let i = 0; i < this.size; i++) if (!(this.data[i] >= least)) least = this.data[i];
    return least;
  }

  total(): number {
    let sum = 0;
    for (let i = 0; i < this.size; i++) sum += this.data[i];
    return sum;
  }
}
