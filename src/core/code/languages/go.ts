import type { ContractBody } from "../../contract/contract";
import {
  type ByKind,
  type CodeBlock,
  camel,
  isHistogram,
  type LanguageCode,
  literal,
  type Setting,
  sample,
  withInstance,
} from "./language";

function startUp({ protocol }: Setting): CodeBlock[] {
  const kind = protocol === "http" ? "otlpmetrichttp" : "otlpmetricgrpc";
  return [
    {
      title: "Modules",
      text: `go get go.opentelemetry.io/otel go.opentelemetry.io/otel/sdk/metric go.opentelemetry.io/otel/exporters/otlp/otlpmetric/${kind} github.com/google/uuid`,
    },
    {
      title: "Start-up, before anything is measured",
      text: `import (
	"github.com/google/uuid"
	"go.opentelemetry.io/otel"
	"go.opentelemetry.io/otel/attribute"
	"go.opentelemetry.io/otel/exporters/otlp/otlpmetric/${kind}"
	sdkmetric "go.opentelemetry.io/otel/sdk/metric"
	"go.opentelemetry.io/otel/sdk/resource"
)

// Name, release, address and key come from the environment; each process has an id of its own.
instance := attribute.String("service.instance.id", uuid.NewString())
res, err := resource.New(ctx, resource.WithFromEnv(), resource.WithTelemetrySDK(), resource.WithAttributes(instance))
if err != nil {
	return err
}
exporter, err := ${kind}.New(ctx)
if err != nil {
	return err
}
provider := sdkmetric.NewMeterProvider(
	sdkmetric.WithResource(res),
	sdkmetric.WithReader(sdkmetric.NewPeriodicReader(exporter)),
)
otel.SetMeterProvider(provider)
defer provider.Shutdown(ctx)`,
    },
  ];
}

/** Go has no agent: the handler is wrapped, and the three providers are set up from the environment. */
function automatic(): CodeBlock[] {
  return [
    {
      title: "Modules",
      text: `go get go.opentelemetry.io/contrib/exporters/autoexport go.opentelemetry.io/contrib/instrumentation/net/http/otelhttp \\
  go.opentelemetry.io/otel/sdk go.opentelemetry.io/otel/sdk/metric`,
    },
    {
      title: "Start-up, and round the handler",
      text: `spans, err := autoexport.NewSpanExporter(ctx)
if err != nil {
	return err
}
reader, err := autoexport.NewMetricReader(ctx)
if err != nil {
	return err
}
otel.SetTracerProvider(sdktrace.NewTracerProvider(sdktrace.WithBatcher(spans)))
otel.SetMeterProvider(sdkmetric.NewMeterProvider(sdkmetric.WithReader(reader)))
http.ListenAndServe(":8080", otelhttp.NewHandler(mux, "server"))`,
    },
    { title: "Run it", text: withInstance("./app") },
  ];
}

const MAKERS: ByKind = {
  counter: "Int64Counter",
  "up-down counter": "Int64UpDownCounter",
  gauge: "Float64Gauge",
  histogram: "Float64Histogram",
  "exponential histogram": "Float64Histogram",
};

function instrument({ name, kind, unit, description, attributes, bounds }: ContractBody): CodeBlock[] {
  const variable = camel(name);
  const options = [
    unit && `metric.WithUnit(${literal(unit)})`,
    description && `metric.WithDescription(${literal(description)})`,
    bounds && `metric.WithExplicitBucketBoundaries(${bounds.join(", ")})`,
  ].filter(Boolean);
  const call = isHistogram(kind) || kind === "gauge" ? "Record(ctx, value" : "Add(ctx, 1";
  const pairs = attributes.map((one) => `attribute.String(${literal(one.name)}, ${literal(sample(one))})`);
  const blocks: CodeBlock[] = [
    {
      title: "Make it once",
      text: `${variable}, err := otel.Meter("my-service").${MAKERS[kind]}(${literal(name)}${options.map((one) => `,\n	${one}`).join("")})`,
    },
    {
      title: "Record with it",
      text: `${variable}.${call}${pairs.length === 0 ? "" : `, metric.WithAttributes(\n	${pairs.join(",\n	")},\n)`})`,
    },
  ];
  if (kind === "exponential histogram")
    blocks.push({
      title: "A view, in the start-up code",
      text: `sdkmetric.WithView(sdkmetric.NewView(
	sdkmetric.Instrument{Name: ${literal(name)}},
	sdkmetric.Stream{Aggregation: sdkmetric.AggregationBase2ExponentialHistogram{MaxSize: 160, MaxScale: 20}},
))`,
    });
  return blocks;
}

export const go: LanguageCode = { name: "Go", startUp, automatic, instrument };
