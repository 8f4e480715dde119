import type pg from "pg";
import type { Batch } from "../../src/core/otlp/batch/batch";
import { Dictionary } from "../../src/core/otlp/dictionary";
import { decodeMetrics } from "../../src/core/otlp/protobuf";
import { Request } from "../../src/core/otlp/testing/schema";
import { EMPTY_PIPELINE, pipelineSchema } from "../../src/core/pipeline/config";
import { Pipeline } from "../../src/core/pipeline/pipeline";
import { Committer } from "../../src/store/commit";
import { runJob } from "../../src/store/jobs/job";
import { publishPipeline } from "../../src/store/pipeline/pipeline";
import { WindowCloser } from "../../src/store/pipeline/windowCloser";
import { alternate, note, perSecond } from "./measure";

const SERIES = 10_000;
const COMMITS = 6;
const ROUNDS = 5;
const STEP = 10_000;
const DEPOTS = 6;

/** Six steps as a team would have them: three that only rename, one that drops, and two where series meet. */
const SIX = pipelineSchema.parse({
  metrics: [
    { id: "noise", type: "drop", where: 'http.route starts with "/health"' },
    { id: "key", type: "rename", from: "tool.kind", to: "kind" },
    { id: "member", type: "hash", attributes: ["member"] },
    { id: "fold", type: "fold", attribute: "http.route", folds: ["numbers"] },
    { id: "locker", type: "remove", attributes: ["locker.id"] },
    { id: "limit", type: "limit", series: 100_000 },
  ],
});

function bytesAt(start: number, t: number): Uint8Array {
  const of = (key: string, stringValue: string) => ({ key, value: { stringValue } });
  const dataPoints = Array.from({ length: SERIES }, (_, i) => ({
    timeUnixNano: `${start + t * STEP}000000`,
    startTimeUnixNano: `${start - 1000}000000`,
    asInt: String(t * 40 + (i % 31)),
    attributes: [
      of("depot", `depot-${i % DEPOTS}`),
      of("tool.kind", `kind-${i % 5}`),
      of("member", `plan-${i % 3}`),
      of("locker.id", String(i)),
      of("http.route", i % 10 === 0 ? "/health" : "/lockers/{id}"),
    ],
  }));
  const resource = { attributes: [of("service.name", "lockers")] };
  const metric = { name: "bench.lane", unit: "1", sum: { dataPoints, aggregationTemporality: 2, isMonotonic: true } };
  const request = { resourceMetrics: [{ resource, scopeMetrics: [{ metrics: [metric] }] }] };
  return Request.encode(Request.fromObject(request)).finish();
}

/** How long what waits may take to come out, ms. */
const PATIENCE = 120_000;

/** A lane of six steps against the same intake with none: from the bytes of a request to its commit. */
export async function benchLane(pool: pg.Pool): Promise<void> {
  const start = Math.floor(Date.now() / STEP) * STEP - 3600_000;
  const bodies = Array.from({ length: COMMITS * (ROUNDS + 2) }, (_, t) => bytesAt(start, t));
  const version = await publishPipeline(pool, { config: SIX, who: "bench", note: "six steps", based: 0 });
  await pool.query("UPDATE pipeline_version SET at = $1", [start]);
  const closer = new WindowCloser(pool, new Committer(pool));
  const intake = (id: number, config: typeof SIX) => {
    const dictionary = new Dictionary();
    const committer = new Committer(pool);
    const pipeline = new Pipeline(id, config, dictionary, start);
    let t = 0;
    return async () => {
      for (let c = 0; c < COMMITS; c++) {
        const batch: Batch = decodeMetrics(bodies[t++], dictionary);
        pipeline.admit(batch);
        await committer.commit([batch]);
      }
    };
  };
  // What making the requests left behind is not to be swept up while others are timed.
  globalThis.gc?.();
  const none = intake(0, EMPTY_PIPELINE);
  const six = intake(version, SIX);
  const [plain, shaped] = await alternate(
    [
      { name: "no steps", run: none },
      { name: "six steps", run: six },
    ],
    ROUNDS,
  );
  const points = SERIES * COMMITS;
  note(
    "six-step lane: receive and make durable",
    "the same intake with no steps",
    perSecond(points, shaped.ms),
    perSecond(points, plain.ms),
    plain.ms / shaped.ms,
    "≥ 0.5×",
  );
  // What waits is brought together by a thread of its own; its pace has to be that of what is received.
  const waiting = async () => {
    const { rows } = await pool.query<{ points: string | null }>("SELECT sum(points) AS points FROM lane_waiting");
    return Number(rows[0].points ?? 0);
  };
  const drain = async () => {
    // A pass may find nothing to do yet: on a busy machine another one follows.
    const end = performance.now() + PATIENCE;
    while ((await waiting()) > 0 && performance.now() < end) await runJob(pool, closer.job, Date.now() + 3600_000);
  };
  // Series are met for the first time once only.
  await drain();
  await six();
  const came = await waiting();
  const began = performance.now();
  await drain();
  const closing = performance.now() - began;
  const left = await waiting();
  if (left > 0) throw new Error(`${left} of ${came} points still wait after ${PATIENCE / 1000} s`);
  note(
    "six-step lane: windows closed and stored",
    "the same intake with no steps",
    perSecond(came, closing),
    perSecond(points, plain.ms),
    plain.ms / points / (closing / came),
    "",
  );
  await publishPipeline(pool, { config: EMPTY_PIPELINE, who: "bench", note: "none", based: version });
}
