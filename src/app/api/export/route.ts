import type { PointsAnswer, PointsJob } from "@/engine/jobs";
import { runJob } from "@/engine/pool";
import { answering, badRequest, outcome } from "../answer";
import { exportQuery } from "../query";

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
async function* pieces(
  first: PointsAnswer,
  jobs: PointsJob[],
  signal: AbortSignal,
): AsyncGenerator<string, void, void> {
  let answer = first;
  const families = [...first.families];
  for (let at = 0; ; ) {
    yield answer.text;
    if (answer.next === null) at++;
    if (at >= jobs.length) return;
    const from = answer.next ?? jobs[at].from;
    const result = await runJob({ ...jobs[at], from, families }, signal);
    if (!result.ok) throw new BrokenOff(result.problem.detail);
    answer = result.value;
    for (const family of answer.families) families.push(family);
  }
}

/**
 * GET /api/export?metric=&from=&to=&format=otlp|openmetrics&where=name=value : points as they arrived, in (from, to].
 * `metric` and `where` may stand several times.
 */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const parameters = new URL(request.url).searchParams;
    const query = exportQuery.safeParse({
      ...Object.fromEntries(parameters),
      metrics: parameters.getAll("metric"),
      where: parameters.getAll("where"),
    });
    if (!query.success) return badRequest(query.error);
    const { metrics, ...rest } = query.data;
    const jobs = [...new Set(metrics)].map((metric): PointsJob => ({ type: "points", metric, families: [], ...rest }));
    const first = await runJob(jobs[0], request.signal);
    if (!first.ok) return outcome(first);
    const source = pieces(first.value, jobs, request.signal);
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
}
