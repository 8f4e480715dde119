import type { PipelineConfig } from "@/core/pipeline/config";
import { countedTwice, sampledBefore } from "@/core/pipeline/origins";

/** What somebody should know about a pipeline before it goes live. */
export function PipelineWarnings({
  config,
  based,
  live,
  drafting,
}: {
  config: PipelineConfig;
  based: number;
  live: number;
  drafting: boolean;
}) {
  const twice = countedTwice(config.metrics);
  const sampled = [...sampledBefore(config.traces), ...sampledBefore(config.logs)];
  const stored = config.exporters.some(({ type, on }) => type === "store" && on);
  const notes = [
    drafting && based !== live
      ? `Version ${live} was published since this draft was begun from version ${based}. Look at what changed below; to go on from what is live, give the draft up.`
      : null,
    twice.length > 0
      ? `Counted twice: ${twice.length === 1 ? "a merge sends" : "merges send"} its originals on under the same name. Give what comes out a name of its own, or let the originals go.`
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
