import type { Problem } from "@/core/api/readings";

/** Problems that are nobody's mistake who asks. */

export const STORE_AWAY: Problem = {
  title: "The store is away",
  detail: "the database does not answer; it is asked again by itself",
  hint: "if it lasts: is PostgreSQL running?",
};

export const BUSY: Problem = {
  title: "Busy",
  detail: "too many readings are waiting; try again in a moment",
};

export const TOO_MANY_WAIT: Problem = {
  title: "Too many readings at once",
  detail: "more of your readings are waiting than are kept for one caller; ask again in a moment",
};

/** @param id stands in the log, with what was asked */
export function faultProblem(id: string): Problem {
  return {
    title: "A fault in Tin Ladder",
    detail: `this should not have happened; the log says more under ${id}`,
  };
}
