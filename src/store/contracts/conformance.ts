import type { BackgroundJob } from "../jobs/job";
import { arrivedSeries } from "./arrivals";
import { listContracts } from "./contracts";
import { endOrphans, noteFindings } from "./findings";
import { CONTRACT_SEARCHES, STORE_SEARCHES } from "./searches";

const OF_CONTRACTS = CONTRACT_SEARCHES.flatMap(({ codes }) => codes);

/** Holds all that arrives now against contracts, and looks for what is odd without one. */
export const CONFORMANCE: BackgroundJob = {
  name: "conformance",
  does: "hold arrivals against contracts",
  every: 10_000,
  looksAtAll: true,
  pass: async (pool, now, stopped) => {
    const contracts = await listContracts(pool);
    let done = 0;
    const failures: Error[] = [];
    // What is wrong with one metric keeps no other from being checked.
    const alone = async (about: string, work: () => Promise<void>) => {
      try {
        await work();
      } catch (error) {
        failures.push(new Error(`${about}: ${(error as Error).message}`, { cause: error }));
      }
    };
    for (const { name, body } of contracts) {
      if (stopped()) break;
      await alone(name, async () => {
        const arrivals = { pool, now, series: await arrivedSeries(pool, name, now) };
        const found = await Promise.all(CONTRACT_SEARCHES.map(({ find }) => find(body, arrivals)));
        await noteFindings(pool, name, OF_CONTRACTS, found.flat(), now);
      });
      done++;
    }
    const names = contracts.map(({ name }) => name);
    await endOrphans(pool, names, OF_CONTRACTS, now);
    for (const { codes, find } of STORE_SEARCHES) {
      await alone(codes.join(), async () => {
        const all = await find(pool, now);
        for (const [name, found] of all) await alone(name, () => noteFindings(pool, name, codes, found, now));
        await endOrphans(pool, [...all.keys()], codes, now);
      });
    }
    if (failures.length > 0) throw failures[0];
    return { done, backlog: contracts.length - done, waitingSince: null };
  },
};
