import type { ContractBody, InstrumentKind } from "../contract/contract";
import { type Language, literal } from "./languages";
import type { CodeBlock } from "./startUp";

/** The code that makes an instrument and records with it, by language; with a view where the SDK needs one. */

/** A name for a variable: loan.extended becomes loanExtended. */
export function camel(name: string): string {
  const words = name.split(/[^A-Za-z0-9]+/).filter(Boolean);
  return (
    words.map((word, i) => (i === 0 ? word.toLowerCase() : word[0].toUpperCase() + word.slice(1))).join("") || "it"
  );
}

const snake = (name: string) =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^_+|_+$/g, "") || "it";
const pascal = (name: string) => camel(name).replace(/^./, (first) => first.toUpperCase());

/** What stands for a value in the recording call: the first that is expected, else a placeholder. */
function sample({ values }: ContractBody["attributes"][number]): string {
  return values[0] ?? "…";
}

function isHistogram(kind: InstrumentKind): boolean {
  return kind === "histogram" || kind === "exponential histogram";
}

/** One of each kind, by language. */
type ByKind = Record<InstrumentKind, string>;

const TYPESCRIPT: ByKind = {
  counter: "createCounter",
  "up-down counter": "createUpDownCounter",
  gauge: "createGauge",
  histogram: "createHistogram",
  "exponential histogram": "createHistogram",
};

function typescript({ name, kind, unit, description, attributes, bounds }: ContractBody): CodeBlock[] {
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

const ${variable} = metrics.getMeter("my-service").${TYPESCRIPT[kind]}(${literal(name)}${options.length > 0 ? `, {\n  ${options.join(",\n  ")},\n}` : ""});`,
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

const PYTHON: ByKind = {
  counter: "create_counter",
  "up-down counter": "create_up_down_counter",
  gauge: "create_gauge",
  histogram: "create_histogram",
  "exponential histogram": "create_histogram",
};

function python({ name, kind, unit, description, attributes, bounds }: ContractBody): CodeBlock[] {
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

${variable} = metrics.get_meter("my-service").${PYTHON[kind]}(
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

const JAVA: Record<InstrumentKind, { builder: string; type: string }> = {
  counter: { builder: "counterBuilder", type: "LongCounter" },
  "up-down counter": { builder: "upDownCounterBuilder", type: "LongUpDownCounter" },
  gauge: { builder: "gaugeBuilder", type: "DoubleGauge" },
  histogram: { builder: "histogramBuilder", type: "DoubleHistogram" },
  "exponential histogram": { builder: "histogramBuilder", type: "DoubleHistogram" },
};

function java({ name, kind, unit, description, attributes, bounds }: ContractBody): CodeBlock[] {
  const variable = camel(name);
  const { builder, type } = JAVA[kind];
  const calls = [
    unit && `.setUnit(${literal(unit)})`,
    description && `.setDescription(${literal(description)})`,
    bounds &&
      `.setExplicitBucketBoundariesAdvice(List.of(${bounds.map((bound) => (Number.isInteger(bound) ? `${bound}.0` : bound)).join(", ")}))`,
    ".build();",
  ].filter(Boolean);
  const call = isHistogram(kind) ? "record(value" : kind === "gauge" ? "set(value" : "add(1";
  const pairs = attributes.map((one) => `AttributeKey.stringKey(${literal(one.name)}), ${literal(sample(one))}`);
  const blocks: CodeBlock[] = [
    {
      title: "Make it once",
      text: `${type} ${variable} = telemetry.getMeter("my-service")
    .${builder}(${literal(name)})
    ${calls.join("\n    ")}`,
    },
    {
      title: "Record with it",
      text: `${variable}.${call}${pairs.length === 0 ? "" : `, Attributes.of(\n    ${pairs.join(",\n    ")})`});`,
    },
  ];
  if (kind === "exponential histogram")
    blocks.push({
      title: "A view, in the start-up code",
      text: `SdkMeterProvider.builder().registerView(
    InstrumentSelector.builder().setName(${literal(name)}).build(),
    View.builder().setAggregation(Aggregation.base2ExponentialBucketHistogram(160, 20)).build())`,
    });
  return blocks;
}

const GO: ByKind = {
  counter: "Int64Counter",
  "up-down counter": "Int64UpDownCounter",
  gauge: "Float64Gauge",
  histogram: "Float64Histogram",
  "exponential histogram": "Float64Histogram",
};

function go({ name, kind, unit, description, attributes, bounds }: ContractBody): CodeBlock[] {
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
      text: `${variable}, err := otel.Meter("my-service").${GO[kind]}(${literal(name)}${options.map((one) => `,\n	${one}`).join("")})`,
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

const DOTNET: ByKind = {
  counter: "CreateCounter<long>",
  "up-down counter": "CreateUpDownCounter<long>",
  gauge: "CreateGauge<double>",
  histogram: "CreateHistogram<double>",
  "exponential histogram": "CreateHistogram<double>",
};

function dotnet({ name, kind, unit, description, attributes, bounds }: ContractBody): CodeBlock[] {
  const variable = camel(name);
  const options = [unit && `unit: ${literal(unit)}`, description && `description: ${literal(description)}`].filter(
    Boolean,
  );
  const call = isHistogram(kind) || kind === "gauge" ? "Record(value" : "Add(1";
  const pairs = attributes.map((one) => `new(${literal(one.name)}, ${literal(sample(one))})`);
  const blocks: CodeBlock[] = [
    {
      title: "Make it once",
      text: `using System.Diagnostics.Metrics;

static readonly Meter Meter = new("my-service");
static readonly ${DOTNET[kind].replace("Create", "")} ${pascal(variable)} = Meter.${DOTNET[kind]}(${[literal(name), ...options].join(", ")});`,
    },
    {
      title: "Record with it",
      text: `${pascal(variable)}.${call}${pairs.length === 0 ? "" : `,\n    ${pairs.join(",\n    ")}`});`,
    },
  ];
  if (bounds || kind === "exponential histogram")
    blocks.push({
      title: "A view, in the start-up code",
      text: bounds
        ? `metrics.AddView(${literal(name)}, new ExplicitBucketHistogramConfiguration { Boundaries = [${bounds.join(", ")}] });`
        : `metrics.AddView(${literal(name)}, new Base2ExponentialBucketHistogramConfiguration { MaxSize = 160 });`,
    });
  return blocks;
}

const WRITERS: Record<Language, (contract: ContractBody) => CodeBlock[]> = {
  TypeScript: typescript,
  Python: python,
  Java: java,
  Go: go,
  ".NET": dotnet,
};

/** How an instrument is made and used in a language. */
export function instrumentCode(language: Language, contract: ContractBody): CodeBlock[] {
  return WRITERS[language](contract);
}
