import { LIMITS } from "../limits";

/** What of a request was refused and what its sender is warned of, each reason once. */
export class Refusals {
  /** Points that were refused. */
  points = 0;
  private readonly reasons = new Map<string, number>();
  private readonly warnings = new Set<string>();

  warn(text: string): void {
    if (this.warnings.size < LIMITS.reasons) this.warnings.add(text);
  }

  add(metric: string, reason: string, points: number): void {
    this.points += points;
    const text = `${metric || "(no name)"}: ${reason}`;
    if (this.reasons.has(text) || this.reasons.size < LIMITS.reasons) {
      this.reasons.set(text, (this.reasons.get(text) ?? 0) + points);
    }
  }

  /** Takes over those of another. */
  append(other: Refusals): void {
    this.points += other.points;
    for (const [text, points] of other.reasons) this.reasons.set(text, (this.reasons.get(text) ?? 0) + points);
    for (const text of other.warnings) this.warn(text);
  }

  /** In words; "" where there is nothing. */
  message(): string {
    const refused = [...this.reasons].map(
      ([text, points]) => `${text} (${points} ${points === 1 ? "point" : "points"})`,
    );
    return [...refused, ...this.warnings].join("; ");
  }
}
