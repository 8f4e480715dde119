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
} from "./language";

function startUp({ service, release, environment, protocol }: Setting): CodeBlock[] {
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
  // Address and key come from the environment.
  readers: [new PeriodicExportingMetricReader({ exporter: new OTLPMetricExporter(), exportIntervalMillis: 10_000 })],
});
metrics.setGlobalMeterProvider(provider);
process.on("SIGTERM", () => provider.shutdown());`,
    },
  ];
}

function automatic(): CodeBlock[] {
  return [
    { title: "Packages", text: "npm install @opentelemetry/api @opentelemetry/auto-instrumentations-node" },
    {
      title: "Run it",
      text: `export OTEL_NODE_RESOURCE_DETECTORS=env,host,process,serviceinstance
node --require @opentelemetry/auto-instrumentations-node/register app.js`,
    },
  ];
}

const MAKERS: ByKind = {
  counter: "createCounter",
  "up-down counter": "createUpDownCounter",
  gauge: "createGauge",
  histogram: "createHistogram",
  "exponential histogram": "createHistogram",
};

function instrument({ name, kind, unit, description, attributes, bounds }: ContractBody): CodeBlock[] {
  const variable = camel(name);
  const options = [
    unit && `unit: ${literal(unit)}`,
    description && `description: ${literal(description)}`,
    bounds && `advice: { explicitBucketBoundaries: [${bounds.join(", ")}] }`,
  ].filter(Boolean);
  const call = isHistogram(kind) || kind === "gauge" ? "record(value" : "add(1";
  const pairs = attributes.map((one) => `${literal(one.name)}: ${literal(sample(one))}`).join(", ");
  const blocks: CodeBlock[] = [
    {
      title: "Make it once",
      text: `import { metrics } from "@opentelemetry/api";

const ${variable} = metrics.getMeter("my-service").${MAKERS[kind]}(${literal(name)}${options.length > 0 ? `, {\n  ${options.join(",\n  ")},\n}` : ""});`,
    },
    { title: "Record with it", text: `${variable}.${call}${pairs === "" ? "" : `, { ${pairs} }`});` },
  ];
  if (kind === "exponential histogram")
    blocks.push({
      title: "A view, in the start-up code",
      text: `import { AggregationType } from "@opentelemetry/sdk-metrics";

// in new MeterProvider({ … })
views: [{
  instrumentName: ${literal(name)},
  aggregation: { type: AggregationType.EXPONENTIAL_HISTOGRAM, options: { maxSize: 160, recordMinMax: true } },
}],`,
    });
  return blocks;
}

export const typescript: LanguageCode = { name: "TypeScript", startUp, automatic, instrument };
