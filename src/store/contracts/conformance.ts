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
    for (const { name, body } of contracts) {
      if (stopped()) break;
      const arrivals = { pool, now, series: await arrivedSeries(pool, name, now) };
      const found = await Promise.all(CONTRACT_SEARCHES.map(({ find }) => find(body, arrivals)));
      await noteFindings(pool, name, OF_CONTRACTS, found.flat(), now);
      done++;
    }
    const names = contracts.map(({ name }) => name);
    await endOrphans(pool, names, OF_CONTRACTS, now);
    for (const { codes, find } of STORE_SEARCHES) {
      const all = await find(pool, now);
      for (const [name, found] of all) await noteFindings(pool, name, codes, found, now);
      await endOrphans(pool, [...all.keys()], codes, now);
    }
    return { done, backlog: contracts.length - done, waitingSince: null };
  },
};
