import { OTLPLogExporter } from "@opentelemetry/exporter-logs-otlp-proto";
import { OTLPMetricExporter } from "@opentelemetry/exporter-metrics-otlp-proto";
import { OTLPTraceExporter } from "@opentelemetry/exporter-trace-otlp-proto";
import { resourceFromAttributes } from "@opentelemetry/resources";
import { BatchLogRecordProcessor, LoggerProvider } from "@opentelemetry/sdk-logs";
import { MeterProvider, PeriodicExportingMetricReader, type ViewOptions } from "@opentelemetry/sdk-metrics";
import { BasicTracerProvider, BatchSpanProcessor, TraceIdRatioBasedSampler } from "@opentelemetry/sdk-trace-node";
import { whoSends } from "./model";

/** The OpenTelemetry SDK as every program of Fern & Anvil sets it up; OTEL_EXPORTER_OTLP_ENDPOINT says where it sends. */

const EXPORT_EVERY = 10_000;

export interface Telemetry {
  meters: MeterProvider;
  tracers: BasicTracerProvider;
  logs: LoggerProvider;
  shutdown: () => Promise<void>;
}

/** @param traced the part of traces that is sent */
export function telemetryOf(
  { service, release, instance }: { service: string; release: string; instance: number },
  { traced, views = [] }: { traced: number; views?: ViewOptions[] },
): Telemetry {
  const resource = resourceFromAttributes(whoSends(service, release, instance));
  const meters = new MeterProvider({
    resource,
    views,
    readers: [
      new PeriodicExportingMetricReader({
        exporter: new OTLPMetricExporter(),
        exportIntervalMillis: EXPORT_EVERY,
      }),
    ],
  });
  const tracers = new BasicTracerProvider({
    resource,
    sampler: new TraceIdRatioBasedSampler(traced),
    spanProcessors: [new BatchSpanProcessor(new OTLPTraceExporter())],
  });
  const logs = new LoggerProvider({
    resource,
    processors: [new BatchLogRecordProcessor({ exporter: new OTLPLogExporter() })],
  });
  const shutdown = async () => {
    await Promise.all([meters.shutdown(), tracers.shutdown(), logs.shutdown()]);
  };
  return { meters, tracers, logs, shutdown };
}
