import http from "node:http";
import type { AddressInfo } from "node:net";
import { SpanKind, SpanStatusCode } from "@opentelemetry/api";
import { AggregationType } from "@opentelemetry/sdk-metrics";
import { type CallKind, callKinds, DEPOTS, HTTP_BOUNDS, memoryOf, PLANS, type ServiceName, slowdown } from "./model";
import { normal } from "./random";
import { type Telemetry, telemetryOf } from "./telemetry";

/**
 * A program of Fern & Anvil: one release of one service, several instances, each a real HTTP server with its own
 * OpenTelemetry SDK. Called as: service.js SERVICE RELEASE, as a child with a message channel.
 */

const [service, release] = process.argv.slice(2) as [ServiceName, string];
const plan = PLANS.find((one) => one.service === service && one.release === release);
if (!plan) throw new Error(`no plan for ${service} ${release}`);
/** The part of calls that are traced. */
const TRACED = 0.2;
/** Buckets that the database conventions advise, seconds. */
const DATABASE_BOUNDS = [0.001, 0.005, 0.01, 0.05, 0.1, 0.5, 1, 5, 10];

function wait(ms: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, ms));
}

function drawn({ median, sigma }: CallKind["latency"]): number {
  return median * Math.exp(sigma * normal(Math.random));
}

function startInstance(number: number): Promise<{ port: number; telemetry: Telemetry }> {
  const telemetry = telemetryOf(
    { service, release, instance: number },
    {
      traced: TRACED,
      views: ["fee.quote.duration", "tool.search.results"].map((instrumentName) => ({
        instrumentName,
        aggregation: { type: AggregationType.EXPONENTIAL_HISTOGRAM, options: { maxSize: 160, recordMinMax: true } },
      })),
    },
  );
  const meter = telemetry.meters.getMeter("fern-anvil");
  const tracer = telemetry.tracers.getTracer("fern-anvil");
  const duration = meter.createHistogram("http.server.request.duration", {
    unit: "s",
    description: "Duration of HTTP server requests",
    advice: { explicitBucketBoundaries: HTTP_BOUNDS },
  });
  const instruments = {
    reserved:
      service === "loans"
        ? meter.createCounter("loan.reserved", { unit: "{loan}", description: "Loans that members reserved" })
        : null,
    quote:
      service === "estimator"
        ? meter.createHistogram("fee.quote.duration", { unit: "s", description: "Time to work out a fee" })
        : null,
    results:
      service === "catalogue"
        ? meter.createHistogram("tool.search.results", { unit: "{tool}", description: "Tools found by a search" })
        : null,
    // Renamed in 5.3.0, which is what becomes of names.
    extended:
      service === "loans"
        ? meter.createCounter(release === "5.3.0" ? "loan.extended" : "loan.extend.count", {
            unit: "{loan}",
            description: "Loans that members extended",
          })
        : null,
    queries:
      service === "loans"
        ? meter.createHistogram("db.client.operation.duration", {
            unit: "s",
            description: "Duration of database client operations",
            advice: { explicitBucketBoundaries: DATABASE_BOUNDS },
          })
        : null,
    lookups:
      service === "catalogue"
        ? meter.createCounter("cache.lookups", { unit: "{lookup}", description: "Look-ups in the stock cache" })
        : null,
  };
  const started = Date.now() - (plan!.restarts ? (number * plan!.restarts) / plan!.instances / 2 : 0);
  let spent = process.cpuUsage();
  let spentAt = process.hrtime.bigint();
  meter
    .createObservableGauge("process.cpu.utilization", { unit: "1", description: "Share of a processor in use" })
    .addCallback((result) => {
      const now = process.hrtime.bigint();
      const used = process.cpuUsage(spent);
      // All instances of a release share this process.
      result.observe((used.user + used.system) / 1e6 / (Number(now - spentAt) / 1e9) / plan!.instances);
      spent = process.cpuUsage();
      spentAt = now;
    });
  meter
    .createObservableGauge("process.memory.usage", { unit: "By", description: "Memory in use by the process" })
    .addCallback((result) => result.observe(Math.round(memoryOf(release, Date.now() - started))));

  const kinds = callKinds(service, release);
  const server = http.createServer(async (request, response) => {
    const url = new URL(request.url ?? "/", "http://localhost");
    const kind = kinds.find(
      (one) =>
        one.method === request.method &&
        one.path === url.pathname &&
        Object.entries(one.attributes).every(([key, value]) => url.searchParams.get(key) === value),
    );
    if (!kind) return response.writeHead(404).end();
    const began = process.hrtime.bigint();
    const span = tracer.startSpan(`${kind.method} ${kind.route}`, {
      kind: SpanKind.SERVER,
      attributes: { "http.request.method": kind.method, "http.route": kind.route, ...kind.attributes },
    });
    await wait(drawn(kind.latency) * slowdown(plan!, Date.now() - started) * 1000);
    const failed = Math.random() < plan!.failing;
    const status = failed ? 500 : kind.method === "POST" && kind.route === "/loans" ? 201 : 200;
    response.writeHead(status).end();
    span.setAttribute("http.response.status_code", status);
    // What a person typed stands in the address; it should not be kept.
    span.setAttribute("url.full", `https://fern-anvil.example${kind.path}?member=${Math.floor(Math.random() * 9000)}`);
    if (failed) span.setStatus({ code: SpanStatusCode.ERROR, message: "the store room did not answer" });
    span.end();
    duration.record(Number(process.hrtime.bigint() - began) / 1e9, {
      "http.request.method": kind.method,
      "http.route": kind.route,
      ...kind.attributes,
      "http.response.status_code": status,
      ...(failed ? { "error.type": "500" } : {}),
    });
    if (status === 201) {
      const pick = Math.random();
      const toolKind = pick < 0.5 ? "hand" : pick < 0.8 ? "garden" : "powered";
      instruments.reserved?.add(1, { depot: kind.attributes.depot, "tool.kind": toolKind, "member.plan": "standard" });
    }
    if (kind.route === "/loans/{id}/extend" && !failed) instruments.extended?.add(1, kind.attributes);
    instruments.quote?.record(drawn({ ...kind.latency, median: kind.latency.median * 0.85 }), kind.attributes);
    if (kind.route === "/tools") {
      const depot = DEPOTS[Math.floor(Math.random() * DEPOTS.length)];
      instruments.results?.record(Math.round(drawn({ median: 14, sigma: 0.7 })), { depot: depot.name });
    }
    for (const operation of kind.method === "GET" ? ["SELECT"] : ["SELECT", "UPDATE", "INSERT"]) {
      instruments.queries?.record(drawn({ median: operation === "SELECT" ? 0.004 : 0.009, sigma: 0.8 }), {
        "db.system.name": "postgresql",
        "db.operation.name": operation,
        "db.collection.name": operation === "INSERT" ? "loan_event" : "loan",
      });
    }
    instruments.lookups?.add(2, { "cache.key": "stock", outcome: Math.random() < 0.86 ? "hit" : "miss" });
  });
  return new Promise((resolve) => {
    server.listen(0, "127.0.0.1", () => resolve({ port: (server.address() as AddressInfo).port, telemetry }));
  });
}

const instances = await Promise.all(Array.from({ length: plan.instances }, (_, i) => startInstance(i + 1)));
process.send?.({ ports: instances.map(({ port }) => port) });

async function stop(): Promise<void> {
  await Promise.race([Promise.all(instances.map(({ telemetry }) => telemetry.shutdown())), wait(3000)]);
  process.exit(0);
}
process.on("SIGTERM", () => void stop());
process.on("SIGINT", () => void stop());
process.on("disconnect", () => void stop());
