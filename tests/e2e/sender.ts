import { OTLPMetricExporter as JsonExporter } from "@opentelemetry/exporter-metrics-otlp-http";
import { OTLPMetricExporter as ProtobufExporter } from "@opentelemetry/exporter-metrics-otlp-proto";
import { resourceFromAttributes } from "@opentelemetry/resources";
import { AggregationType, MeterProvider, PeriodicExportingMetricReader } from "@opentelemetry/sdk-metrics";

/**
 * A service of a user's own, as far as the tests know: the stock SDK, sending what tests/e2e/releases.spec.ts expects.
 * Called as: sender.js RELEASE protobuf|json
 */

const [release, encoding] = process.argv.slice(2);
const url = `http://127.0.0.1:${process.env.TIN_INTAKE_PORT}/v1/metrics`;
const exporter = encoding === "json" ? new JsonExporter({ url }) : new ProtobufExporter({ url });
const provider = new MeterProvider({
  resource: resourceFromAttributes({
    "service.name": "kiln",
    "service.version": release,
    "deployment.environment.name": "workshop",
  }),
  readers: [new PeriodicExportingMetricReader({ exporter, exportIntervalMillis: 600_000 })],
  views: [{ instrumentName: "firing.quote.duration", aggregation: { type: AggregationType.EXPONENTIAL_HISTOGRAM } }],
});
const meter = provider.getMeter("kiln");
const duration = meter.createHistogram("http.server.request.duration", {
  unit: "s",
  advice: { explicitBucketBoundaries: [0.005, 0.01, 0.025, 0.05, 0.075, 0.1, 0.25, 0.5, 0.75, 1, 2.5, 5, 7.5, 10] },
});
const fired = meter.createCounter("pot.fired", { unit: "{pot}" });
const quoted = meter.createHistogram("firing.quote.duration", { unit: "s" });

const fast = release === "1.0.0" ? 40 : 50;
const slow = release === "1.0.0" ? 0.2 : 0.7;
const failures = release === "1.0.0" ? 5 : 20;
for (let i = 0; i < 100; i++) {
  const failed = i >= 100 - failures;
  duration.record(i < fast ? 0.02 : slow, {
    "http.route": "/pots/{id}",
    "http.response.status_code": failed ? 503 : 200,
    ...(failed ? { "error.type": "503" } : {}),
  });
  quoted.record(0.01 * (i + 1));
}
for (const [depot, pots] of [
  ["Brindle", 7],
  ["Ostler Green", 5],
] as const)
  fired.add(pots, { depot });
await provider.shutdown();
