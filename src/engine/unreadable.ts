import { problemOf } from "./refusals";

/** The answer, or null where what was asked cannot be read or is too large; what else goes wrong is no answer of ours. */
export async function unlessUnreadable<T>(answer: Promise<T>): Promise<T | null> {
  try {
    return await answer;
  } catch (error) {
    if (problemOf(error) === null) throw error;
    return null;
  }
}
