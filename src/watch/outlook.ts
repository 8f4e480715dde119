import type { Logger } from "pino";
import type { ServiceOutlook } from "@/core/api/home";
import { DAY } from "@/core/window/lengths";
import run from "@/engine/worker";
import { OUTLOOK } from "@/store/jobs/all";
import type { BackgroundJob } from "@/store/jobs/job";
import { noteOutlook, servicesDue } from "@/store/releases/outlooks";

/** What is noted of a service that cannot be looked at: nothing, until it is its turn again. */
const NOTHING = { rate: null, serving: [], errors: null, verdict: null };

/** Looks at how the newest releases do: often while they are young. */
export function lookingAhead(log: Logger): BackgroundJob {
  return {
    ...OUTLOOK,
    every: 5000,
    looksAtAll: true,
    pass: async (pool, now, stopped) => {
      const due = await servicesDue(pool, now);
      let done = 0;
      for (const place of due) {
        if (stopped()) break;
        const at = Date.now();
        const gone = new Int32Array(new SharedArrayBuffer(4));
        const outcome = await run({ job: { type: "outlook", ...place, now: at }, gone });
        if (!outcome.ok) log.warn({ ...place, problem: outcome.problem }, "a service could not be looked at");
        const found = outcome.ok ? (outcome.value as ServiceOutlook) : { ...NOTHING, from: at - DAY, to: at };
        await noteOutlook(pool, place, at, found);
        done++;
      }
      return { done, backlog: due.length - done, waitingSince: null };
    },
  };
}
