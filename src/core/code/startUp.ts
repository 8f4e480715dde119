import { type Language, literal } from "./languages";

/** What a service needs to send: environment variables and start-up code, by language. */

export interface Setting {
  service: string;
  release: string;
  environment: string;
  protocol: "http" | "grpc";
  /** Of the intake, by protocol. */
  port: number;
  /** "" for none. */
  token: string;
}

export interface CodeBlock {
  title: string;
  text: string;
}

/** A value of a list in an environment variable (OpenTelemetry, "Specifying resource information": percent-encoded). */
function listed(text: string): string {
  return text.replace(/[^\w.~/:@{}-]/g, (character) => encodeURIComponent(character).replace(/'/g, "%27"));
}

/** The environment variables (OpenTelemetry specification, "Environment Variable Specification"). */
export function environmentOf({ service, release, environment, protocol, port, token }: Setting): string {
  const attributes = [`service.version=${listed(release)}`, `deployment.environment.name=${listed(environment)}`];
  return [
    `OTEL_SERVICE_NAME=${/^[\w.-]+$/.test(service) ? service : `'${service.replace(/'/g, "'\\''")}'`}`,
    `OTEL_RESOURCE_ATTRIBUTES=${attributes.join(",")}`,
    "OTEL_METRICS_EXPORTER=otlp",
    `OTEL_EXPORTER_OTLP_PROTOCOL=${protocol === "http" ? "http/protobuf" : "grpc"}`,
    `OTEL_EXPORTER_OTLP_ENDPOINT=http://localhost:${port}`,
    ...(token === "" ? [] : [`OTEL_EXPORTER_OTLP_HEADERS=Authorization=Bearer%20${token}`]),
    "OTEL_METRIC_EXPORT_INTERVAL=10000",
  ].join("\n");
}

function typescript({ service, release, environment, protocol }: Setting): CodeBlock[] {
  const kind = protocol === "http" ? "proto" : "grpc";
  return [
    {
      title: "Packages",
      text: `npm install @opentelemetry/api @opentelemetry/sdk-metrics @opentelemetry/resources @opentelemetry/exporter-metrics-otlp-${kind}`,
    },
    {
      title: "Start-up, before anything is measured",
      text: `import { metrics } from "@opentelemetry/api";
import { OTLPMetricExporter } from "@opentelemetry/exporter-metrics-otlp-${kind}";
import { resourceFromAttributes } from "@opentelemetry/resources";
import { MeterProvider, PeriodicExportingMetricReader } from "@opentelemetry/sdk-metrics";

const provider = new MeterProvider({
  resource: resourceFromAttributes({
    "service.name": process.env.OTEL_SERVICE_NAME ?? ${literal(service)},
    "service.version": ${literal(release)},
    "deployment.environment.name": ${literal(environment)},
    "service.instance.id": crypto.randomUUID(),
    "telemetry.sdk.language": "nodejs",
  }),
  // Address and token come from the environment.
  readers: [new PeriodicExportingMetricReader({ exporter: new OTLPMetricExporter(), exportIntervalMillis: 10_000 })],
});
metrics.setGlobalMeterProvider(provider);
process.on("SIGTERM", () => provider.shutdown());`,
    },
  ];
}

function python({ protocol }: Setting): CodeBlock[] {
  const kind = protocol === "http" ? "http" : "grpc";
  return [
    { title: "Packages", text: `pip install opentelemetry-sdk opentelemetry-exporter-otlp-proto-${kind}` },
    {
      title: "Start-up, before anything is measured",
      text: `from opentelemetry import metrics
from opentelemetry.exporter.otlp.proto.${kind}.metric_exporter import OTLPMetricExporter
from opentelemetry.sdk.metrics import MeterProvider
from opentelemetry.sdk.metrics.export import PeriodicExportingMetricReader
from opentelemetry.sdk.resources import Resource
from uuid import uuid4

# Name, release, address and token come from the environment; each process (after a fork, too) has an id of its own.
resource = Resource.create({"service.instance.id": str(uuid4())})
reader = PeriodicExportingMetricReader(OTLPMetricExporter())
metrics.set_meter_provider(MeterProvider(resource=resource, metric_readers=[reader]))`,
    },
  ];
}

function java(): CodeBlock[] {
  return [
    {
      title: "Dependencies (Gradle)",
      text: `implementation("io.opentelemetry:opentelemetry-api")
implementation("io.opentelemetry:opentelemetry-sdk-extension-autoconfigure")
implementation("io.opentelemetry:opentelemetry-exporter-otlp")`,
    },
    {
      title: "Start-up, before anything is measured",
      text: `import io.opentelemetry.api.OpenTelemetry;
import io.opentelemetry.sdk.autoconfigure.AutoConfiguredOpenTelemetrySdk;
import io.opentelemetry.sdk.resources.Resource;
import java.util.UUID;

// Name, release, address and token come from the environment; each process has an id of its own.
OpenTelemetry telemetry = AutoConfiguredOpenTelemetrySdk.builder()
    .addResourceCustomizer((resource, config) -> resource.merge(
        Resource.builder().put("service.instance.id", UUID.randomUUID().toString()).build()))
    .setResultAsGlobal()
    .build()
    .getOpenTelemetrySdk();`,
    },
  ];
}

function go({ protocol }: Setting): CodeBlock[] {
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

// Name, release, address and token come from the environment; each process has an id of its own.
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

function dotnet({ service }: Setting): CodeBlock[] {
  return [
    {
      title: "Packages",
      text: `dotnet add package OpenTelemetry.Extensions.Hosting
dotnet add package OpenTelemetry.Exporter.OpenTelemetryProtocol`,
    },
    {
      title: "Start-up, before anything is measured",
      text: `using OpenTelemetry.Metrics;
using OpenTelemetry.Resources;

// Name, release, address and token come from the environment; each process has an id of its own.
builder.Services.AddOpenTelemetry()
    .ConfigureResource(resource => resource.AddAttributes(
        new Dictionary<string, object> { ["service.instance.id"] = Guid.NewGuid().ToString() }))
    .WithMetrics(metrics => metrics.AddMeter(${literal(service)}).AddOtlpExporter());`,
    },
  ];
}

const WRITERS: Record<Language, (setting: Setting) => CodeBlock[]> = {
  TypeScript: typescript,
  Python: python,
  Java: java,
  Go: go,
  ".NET": dotnet,
};

/** What to put where, for a service in a language. */
export function startUpOf(language: Language, setting: Setting): CodeBlock[] {
  return [{ title: "Environment", text: environmentOf(setting) }, ...WRITERS[language](setting)];
}

/** One point by hand, with nothing but curl: a gauge of one service. */
export function pointByHand({ service, release, environment, port, token }: Setting): string {
  const attribute = (key: string, stringValue: string) => ({ key, value: { stringValue } });
  const body = {
    resourceMetrics: [
      {
        resource: {
          attributes: [
            attribute("service.name", service),
            attribute("service.version", release),
            attribute("deployment.environment.name", environment),
            attribute("service.instance.id", "by hand"),
          ],
        },
        scopeMetrics: [
          {
            metrics: [
              {
                name: "room.temperature",
                unit: "Cel",
                gauge: { dataPoints: [{ asDouble: 21.5, timeUnixNano: "NOW" }] },
              },
            ],
          },
        ],
      },
    ],
  };
  const quoted = JSON.stringify(body).replace(/'/g, "'\\''").replace("NOW", `'$(date +%s%N)'`);
  const header = token === "" ? "" : ` -H 'Authorization: Bearer ${token}'`;
  return `curl -s http://localhost:${port}/v1/metrics -H 'Content-Type: application/json'${header} -d '${quoted}'`;
}

/** A text as a shell passes it on. */
function quoted(text: string): string {
  return /^[\w./:@%+=,-]+$/.test(text) ? text : `'${text.replace(/'/g, "'\\''")}'`;
}

/** The same point with Tin Ladder's own command, repeated every five seconds. */
export function pointByCommand({ service, release, environment, port, token }: Setting): string {
  const words = [
    "npx tin-ladder send --name room.temperature --kind gauge --value 21.5 --unit Cel",
    `--attr room=workshop --service ${quoted(service)} --release ${quoted(release)}`,
    `--environment ${quoted(environment)}${token === "" ? "" : ` --token ${quoted(token)}`}`,
    `--to http://127.0.0.1:${port} --every 5s`,
  ];
  return words.join(" \\\n  ");
}
