import { sharePart } from "../parts";
import { sampled } from "../sampling";
import { defineStep } from "./definition";
import { share } from "./sentence";

/** Keeps a share of traces, the same ones everywhere; of records without a trace, a share of them. */
export const sample = defineStep({
  type: "sample",
  lanes: ["traces", "logs"],
  settings: { share: sharePart },
  blank: { share: 0.1 },
  name: "sample",
  does: "a share of traces, the same ones everywhere",
  sentence: () => ["keep ", share("share", "share that is kept"), ", of a trace all or nothing"],
  documented: "a share of traces, the same ones everywhere, and their log records",
  samples: true,
  record: (step) => (one) => {
    const record = sampled(one.record, step.share);
    return record && { ...one, record };
  },
});
