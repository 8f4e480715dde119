import { MINUTE } from "../window/lengths";

/** How attempts at passwords and codes are slowed: failures in a row cost more and more time. */

/** Failures that cost nothing: who mistypes is not held up. */
const FREE: Readonly<Record<AttemptKind, number>> = { account: 4, address: 20 };
/** What the first failure after those costs, ms; each further one doubles it. */
const FIRST = 1000;
const LONGEST = 15 * MINUTE;
/** For how long failures are remembered after the last one, ms. */
export const REMEMBERED = 60 * MINUTE;

/** What attempts are counted by: the account that is tried, or the address that tries. */
export type AttemptKind = "account" | "address";

/** For how long the next attempt has to wait after so many failures in a row, ms. */
export function delayAfter(kind: AttemptKind, failures: number): number {
  const counted = failures - FREE[kind];
  return counted <= 0 ? 0 : Math.min(LONGEST, FIRST * 2 ** Math.min(counted - 1, 20));
}
