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

function startUp({ service }: Setting): CodeBlock[] {
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

// Name, release, address and key come from the environment; each process has an id of its own.
builder.Services.AddOpenTelemetry()
    .ConfigureResource(resource => resource.AddAttributes(
        new Dictionary<string, object> { ["service.instance.id"] = Guid.NewGuid().ToString() }))
    .WithMetrics(metrics => metrics.AddMeter(${literal(service)}).AddOtlpExporter());`,
    },
  ];
}

function automatic(): CodeBlock[] {
  return [
    { title: "Packages", text: "dotnet add package OpenTelemetry.AutoInstrumentation" },
    { title: "Run it, where it was built", text: withInstance("./instrument.sh dotnet app.dll") },
  ];
}

const MAKERS: ByKind = {
  counter: "CreateCounter<long>",
  "up-down counter": "CreateUpDownCounter<long>",
  gauge: "CreateGauge<double>",
  histogram: "CreateHistogram<double>",
  "exponential histogram": "CreateHistogram<double>",
};

const pascal = (name: string) => camel(name).replace(/^./, (first) => first.toUpperCase());

function instrument({ name, kind, unit, description, attributes, bounds }: ContractBody): CodeBlock[] {
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
static readonly ${MAKERS[kind].replace("Create", "")} ${pascal(variable)} = Meter.${MAKERS[kind]}(${[literal(name), ...options].join(", ")});`,
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

export const dotnet: LanguageCode = { name: ".NET", startUp, automatic, instrument };
