import type { Picks } from "@/core/reading/language/conditions";
import type { ReadingResult } from "@/core/reading/result";
import { encoded } from "../encoded";
import { isAway } from "../faults";
import type { Outcome } from "../outcome";
import { refusalOf } from "../refusals";
import { loaderOf, type Surroundings } from "../surroundings";
import { readWith } from "./reading";

/** Several readings over one window. */
export interface ReadingsJob {
  type: "readings";
  readings: { text: string; every: number | null }[];
  from: number;
  to: number;
  zone: string;
  picks: Picks;
}

export type ReadingOutcome = Outcome<ReadingResult>;

/** Answers several readings over one window, as a list of outcomes in JSON; what they share is fetched and decoded once. */
export async function answerReadings(around: Surroundings, job: ReadingsJob): Promise<Uint8Array> {
  const { client } = around;
  const loader = loaderOf(around, job.picks);
  const results: ReadingOutcome[] = [];
  for (const { text, every } of job.readings) {
    // Each answers for itself: what one does to the transaction is taken back before the next.
    await client.query("SAVEPOINT reading");
    try {
      results.push({ ok: true, value: await readWith(loader, { ...job, text, every }) });
    } catch (error) {
      if ((error as Error).name === "AbortError" || isAway(error)) throw error;
      results.push(refusalOf(error, { ...job, text }));
      await client.query("ROLLBACK TO SAVEPOINT reading");
    }
  }
  return encoded(results);
}
