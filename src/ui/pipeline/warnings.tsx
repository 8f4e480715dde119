import { originalsBeside, sampledBefore } from "@/core/draft/mistakes";
import type { PipelineConfig } from "@/core/pipeline/config";
import { count } from "../frame/amounts";

const MEND = "Give what comes out a name of its own, or let the originals go no further.";

/** What somebody should know about a pipeline before it goes live. */
export function PipelineWarnings({
  config,
  based,
  live,
  drafting,
  twice,
}: {
  config: PipelineConfig;
  based: number;
  live: number;
  drafting: boolean;
  /** Metrics of which series that came in these minutes come out twice. */
  twice: readonly { metric: string; series: number }[];
}) {
  const beside = originalsBeside(config.metrics);
  const sampled = [...sampledBefore(config.traces), ...sampledBefore(config.logs)];
  const stored = config.exporters.some(({ type, on }) => type === "store" && on);
  const notes = [
    drafting && based !== live
      ? `Version ${live} was published since this draft was begun from version ${based}. Look at what changed below; to go on from what is live, give the draft up.`
      : null,
    twice.length > 0
      ? `Counted twice: ${twice.map(({ metric, series }) => `${count(series)} series of ${metric}`).join(", ")} go on beside what they were merged into, under one name. ${MEND}`
      : beside.length > 0
        ? `Counted twice: a step sends its originals on under the name of what it makes of them. ${MEND}`
        : null,
    sampled.length > 0
      ? "Counted too little: metrics are made behind a step that leaves some out, so they count only what is left. Move that step behind them."
      : null,
    stored ? null : "Nothing goes to the store: pages and readings will show nothing of what arrives from then on.",
  ].filter((note) => note !== null);
  return notes.map((note) => (
    <p key={note} role="alert" className="plate mb-3 px-3 py-2 text-warning">
      ◆ {note}
    </p>
  ));
}
