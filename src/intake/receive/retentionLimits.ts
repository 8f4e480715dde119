import type pg from "pg";
import type { RecordAdmission } from "@/core/otlp/admit";
import type { Admission } from "@/core/otlp/batch/admission";
import { LIMITS } from "@/core/otlp/limits";
import { RAW } from "@/store/database/partitions";
import { DEFAULT_RECORDS, recordsKept } from "@/store/records/records";
import { KEEP, keptRaw } from "@/store/strips/retention";

const LOOK_EVERY = 30_000;

/** How long ago a point may be, by its metric's retention; looked up now and then. */
export class RetentionLimits {
  private ms = new Map<number, number>();
  private records = DEFAULT_RECORDS;
  private lookedAt = 0;

  constructor(private readonly pool: pg.Pool) {}

  /** What requests for spans and log records may say now. */
  recordAdmission(now: number, environment: string | null): RecordAdmission {
    this.look(now);
    return { from: now - this.records, to: now + LIMITS.ahead, environment };
  }

  private look(now: number): void {
    if (now - this.lookedAt <= LOOK_EVERY) return;
    this.lookedAt = now;
    // What was known so far serves until the answer is there, and longer where there is none.
    Promise.all([keptRaw(this.pool), recordsKept(this.pool)]).then(
      ([ms, records]) => {
        this.ms = ms;
        this.records = records;
      },
      () => {},
    );
  }

  /** What requests may say now whose key is for an environment; null: any. */
  admission(now: number, environment: string | null): Admission {
    this.look(now);
    const shortest = Math.min(KEEP[RAW], ...this.ms.values());
    return {
      surelyFrom: now - shortest,
      from: (metric) => now - (this.ms.get(metric.id) ?? KEEP[RAW]),
      to: now + LIMITS.ahead,
      environment,
    };
  }
}
