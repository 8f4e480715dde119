import type pg from "pg";
import type { Admission } from "@/core/otlp/batch";
import { LIMITS } from "@/core/otlp/limits";
import { RAW } from "@/store/partitions";
import { KEEP, keptRaw } from "@/store/retention";

const LOOK_EVERY = 30_000;

/** How long ago a point may be, by its metric's retention; looked up now and then. */
export class KeepTimes {
  private ms = new Map<number, number>();
  private lookedAt = 0;

  constructor(private readonly pool: pg.Pool) {}

  /** What requests may say now whose token is for an environment; null: any. */
  admission(now: number, environment: string | null): Admission {
    if (now - this.lookedAt > LOOK_EVERY) {
      this.lookedAt = now;
      // What was known so far serves until the answer is there, and longer where there is none.
      keptRaw(this.pool).then(
        (found) => {
          this.ms = found;
        },
        () => {},
      );
    }
    const shortest = Math.min(KEEP[RAW], ...this.ms.values());
    return {
      surelyFrom: now - shortest,
      from: (metric) => now - (this.ms.get(metric.id) ?? KEEP[RAW]),
      to: now + LIMITS.ahead,
      environment,
    };
  }
}
