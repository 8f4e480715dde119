import { SpanKind, SpanStatusCode } from "@opentelemetry/api";
import { SeverityNumber } from "@opentelemetry/api-logs";
import { courierFailing, HTTP_BOUNDS, memoryOf, queueAtRest, queueBuiltUp, REMINDERS_PER_SECOND } from "./model";
import { normal } from "./random";
import { telemetryOf } from "./telemetry";

/**
 * Two programs of Fern & Anvil in one process: `reminders`, which works off a queue of reminders, and `courier-link`,
 * which calls the outside courier company for each, writes log lines in logfmt, and has its bad fourteen minutes every
 * night.
 */

const TICK = 200;
const reminders = telemetryOf({ service: "reminders", release: "1.8.2", instance: 1 }, { traced: 1 });
const courier = telemetryOf({ service: "courier-link", release: "2.3.0", instance: 1 }, { traced: 1 });

const queue = { waiting: Math.round(queueAtRest(Date.now())), running: 0, done: 0, failed: 0 };
reminders.meters
  .getMeter("fern-anvil")
  .createObservableGauge("reminder.queue.depth", {
    unit: "{reminder}",
    description: "Reminders in the queue, by state",
  })
  .addCallback((result) => {
    for (const state of ["waiting", "running"] as const)
      result.observe(queue[state] + (state === "waiting" ? Math.round(queueBuiltUp(Date.now())) : 0), {
        queue: "evening",
        state,
      });
  });
const began = Date.now();
for (const [{ meters }, release] of [
  [reminders, "1.8.2"],
  [courier, "2.3.0"],
] as const)
  meters
    .getMeter("fern-anvil")
    .createObservableGauge("process.memory.usage", { unit: "By", description: "Memory in use by the process" })
    .addCallback((result) => result.observe(Math.round(memoryOf(release, Date.now() - began))));
const sent = reminders.meters
  .getMeter("fern-anvil")
  .createCounter("reminder.sent", { unit: "{reminder}", description: "Reminders that were worked off" });
const calls = courier.meters.getMeter("fern-anvil").createHistogram("http.client.request.duration", {
  unit: "s",
  description: "Duration of HTTP client requests",
  advice: { explicitBucketBoundaries: HTTP_BOUNDS },
});
const jobs = reminders.tracers.getTracer("fern-anvil");
const link = courier.tracers.getTracer("fern-anvil");
const log = courier.logs.getLogger("courier-link");

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

async function remind(number: number): Promise<void> {
  queue.waiting = Math.max(0, queue.waiting - 1);
  queue.running++;
  const job = jobs.startSpan("process reminder", { kind: SpanKind.CONSUMER, attributes: { queue: "evening" } });
  const failed = Math.random() < courierFailing(Date.now(), 0);
  const seconds = failed ? 4 : 0.18 * Math.exp(0.5 * normal(Math.random));
  const span = link.startSpan("POST /parcels", {
    kind: SpanKind.CLIENT,
    attributes: { "server.address": "courier.example", "http.request.method": "POST" },
  });
  await pause(seconds * 1000);
  const status = failed ? 504 : 202;
  span.setAttribute("http.response.status_code", status);
  if (failed) span.setStatus({ code: SpanStatusCode.ERROR, message: "the courier company did not answer" });
  span.end();
  calls.record(seconds, {
    "server.address": "courier.example",
    "http.request.method": "POST",
    "http.response.status_code": status,
    ...(failed ? { "error.type": "504" } : {}),
  });
  const level = failed ? "error" : Math.random() < 0.5 ? "debug" : "info";
  const words = failed ? "no answer from the courier" : "parcel handed over";
  log.emit({
    severityNumber: failed ? SeverityNumber.ERROR : level === "debug" ? SeverityNumber.DEBUG : SeverityNumber.INFO,
    severityText: level,
    body: `level=${level} msg="${words}" reminder=${number} member=member${number % 9000}@fern-anvil.example status=${status} took=${seconds.toFixed(3)}`,
  });
  if (failed) job.setStatus({ code: SpanStatusCode.ERROR, message: "not handed over" });
  job.end();
  queue.running--;
  sent.add(1, { queue: "evening", outcome: failed ? "failed" : "done" });
}

let owed = 0;
let number = 1;
setInterval(() => {
  // As many come as are worked off, or a few more or less, which keeps the queue about where it was in the past.
  const part = (REMINDERS_PER_SECOND * TICK) / 1000 + (queueAtRest(Date.now()) - queue.waiting) / 100;
  queue.waiting += Math.random() < part ? 1 : 0;
  owed += (REMINDERS_PER_SECOND * TICK) / 1000;
  for (; owed >= 1; owed--) void remind(number++);
}, TICK);

async function stop(): Promise<void> {
  await Promise.race([Promise.all([reminders.shutdown(), courier.shutdown()]), pause(3000)]);
  process.exit(0);
}
process.on("SIGTERM", () => void stop());
process.on("SIGINT", () => void stop());
process.on("disconnect", () => void stop());
