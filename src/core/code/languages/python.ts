import type { ContractBody } from "../../contract/contract";
import {
  type ByKind,
  type CodeBlock,
  isHistogram,
  type LanguageCode,
  literal,
  type Setting,
  sample,
  withInstance,
} from "./language";

function startUp({ protocol }: Setting): CodeBlock[] {
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

# Name, release, address and key come from the environment; each process (after a fork, too) has an id of its own.
resource = Resource.create({"service.instance.id": str(uuid4())})
reader = PeriodicExportingMetricReader(OTLPMetricExporter())
metrics.set_meter_provider(MeterProvider(resource=resource, metric_readers=[reader]))`,
    },
  ];
}

function automatic(): CodeBlock[] {
  return [
    {
      title: "Packages",
      text: `pip install opentelemetry-distro opentelemetry-exporter-otlp
opentelemetry-bootstrap -a install`,
    },
    {
      title: "Run it",
      text: `export OTEL_PYTHON_LOGGING_AUTO_INSTRUMENTATION_ENABLED=true
${withInstance("opentelemetry-instrument python app.py")}`,
    },
  ];
}

const MAKERS: ByKind = {
  counter: "create_counter",
  "up-down counter": "create_up_down_counter",
  gauge: "create_gauge",
  histogram: "create_histogram",
  "exponential histogram": "create_histogram",
};

const snake = (name: string) =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^_+|_+$/g, "") || "it";

function instrument({ name, kind, unit, description, attributes, bounds }: ContractBody): CodeBlock[] {
  const variable = snake(name);
  const options = [
    unit && `unit=${literal(unit)}`,
    description && `description=${literal(description)}`,
    bounds && `explicit_bucket_boundaries_advisory=[${bounds.join(", ")}]`,
  ].filter(Boolean);
  const call = isHistogram(kind) ? "record(value" : kind === "gauge" ? "set(value" : "add(1";
  const pairs = attributes.map((one) => `${literal(one.name)}: ${literal(sample(one))}`).join(", ");
  const blocks: CodeBlock[] = [
    {
      title: "Make it once",
      text: `from opentelemetry import metrics

${variable} = metrics.get_meter("my-service").${MAKERS[kind]}(
    ${[literal(name), ...options].join(",\n    ")},
)`,
    },
    { title: "Record with it", text: `${variable}.${call}${pairs === "" ? "" : `, {${pairs}}`})` },
  ];
  if (kind === "exponential histogram")
    blocks.push({
      title: "A view, in the start-up code",
      text: `from opentelemetry.sdk.metrics.view import ExponentialBucketHistogramAggregation, View

# in MeterProvider(…)
views=[View(instrument_name=${literal(name)}, aggregation=ExponentialBucketHistogramAggregation(max_size=160))],`,
    });
  return blocks;
}

export const python: LanguageCode = { name: "Python", startUp, automatic, instrument };
