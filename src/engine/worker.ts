import { TooMuchError } from "@/core/reading/distribution";
import { ReadingError } from "@/core/reading/tree";
import { connect } from "@/store/connect";
import { answer } from "./answer";
import type { Answers, Job, Outcome } from "./jobs";
import { SeriesCache } from "./seriesCache";

/** The worker thread's side of the engine: one connection pool and one cache per thread. */

const pool = connect({ max: 2 });
const cache = new SeriesCache();

/** Runs one job. What the asker can mend comes back as a problem; anything else is thrown. */
export default async function run(job: Job): Promise<Outcome<Answers[Job["type"]]>> {
  const client = await pool.connect();
  let broken: Error | undefined;
  try {
    return { ok: true, value: await answer(client, cache, job) };
  } catch (error) {
    if (error instanceof ReadingError) {
      const { message, position, length, hint, instead } = error;
      return {
        ok: false,
        problem: {
          title: "The reading cannot be answered",
          detail: message,
          position,
          length,
          hint,
          instead: instead ?? undefined,
        },
      };
    }
    if (error instanceof TooMuchError)
      return { ok: false, problem: { title: "The reading is too large", detail: error.message } };
    broken = error as Error;
    throw error;
  } finally {
    client.release(broken);
  }
}
