import { exportPoints } from "@/core/api/calls/readings";
import type { PointsAnswer, PointsJob } from "@/engine/jobs/points";
import { type Asking, runJob } from "@/engine/pool";
import { resultOf, serve } from "../serve";

export const dynamic = "force-dynamic";

const TYPES = {
  otlp: { type: "application/x-ndjson", ending: "jsonl" },
  openmetrics: { type: "application/openmetrics-text; version=1.0.0; charset=utf-8", ending: "txt" },
};

/** A failure after the first piece went out: all that is left is to break the stream off. */
class BrokenOff extends Error {
  override name = "BrokenOff";
}

/** Piece after piece; of OpenMetrics, metric after metric. The first is awaited, so that its problem can be told. */
async function* pieces(first: PointsAnswer, jobs: PointsJob[], asking: Asking): AsyncGenerator<string, void, void> {
  let answer = first;
  const families = [...first.families];
  for (let at = 0; ; ) {
    yield answer.text;
    if (answer.next === null) at++;
    if (at >= jobs.length) return;
    const from = answer.next ?? jobs[at].from;
    const result = await runJob({ ...jobs[at], from, families }, asking);
    if (!result.ok) throw new BrokenOff(result.problem.detail);
    answer = result.value;
    for (const family of answer.families) families.push(family);
  }
}

export const GET = serve(exportPoints, async ({ query: { metric: metrics, ...rest }, asking }) => {
  const jobs = [...new Set(metrics)].map((metric): PointsJob => ({ type: "points", metric, families: [], ...rest }));
  const first = resultOf(await runJob(jobs[0], asking));
  const source = pieces(first, jobs, asking);
  const encoder = new TextEncoder();
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { value, done } = await source.next();
      if (!done) return controller.enqueue(encoder.encode(value));
      if (rest.format === "openmetrics") controller.enqueue(encoder.encode("# EOF\n"));
      controller.close();
    },
  });
  const { type, ending } = TYPES[rest.format];
  const file = `${metrics[0].replace(/[^\w.-]/g, "_")}.${ending}`;
  return new Response(body, {
    headers: { "Content-Type": type, "Content-Disposition": `attachment; filename="${file}"` },
  });
});
