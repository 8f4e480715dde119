import type { ContractBody, InstrumentKind } from "../../contract/contract";
import { type CodeBlock, camel, isHistogram, type LanguageCode, literal, sample, withInstance } from "./language";

function startUp(): CodeBlock[] {
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

// Name, release, address and key come from the environment; each process has an id of its own.
OpenTelemetry telemetry = AutoConfiguredOpenTelemetrySdk.builder()
    .addResourceCustomizer((resource, config) -> resource.merge(
        Resource.builder().put("service.instance.id", UUID.randomUUID().toString()).build()))
    .setResultAsGlobal()
    .build()
    .getOpenTelemetrySdk();`,
    },
  ];
}

function automatic(): CodeBlock[] {
  return [
    {
      title: "The agent",
      text: `mvn dependency:copy -DoutputDirectory=. -Dmdep.stripVersion=true \\
  -Dartifact=io.opentelemetry.javaagent:opentelemetry-javaagent:LATEST`,
    },
    { title: "Run it", text: withInstance("java -javaagent:opentelemetry-javaagent.jar -jar app.jar") },
  ];
}

const MAKERS: Record<InstrumentKind, { builder: string; type: string }> = {
  counter: { builder: "counterBuilder", type: "LongCounter" },
  "up-down counter": { builder: "upDownCounterBuilder", type: "LongUpDownCounter" },
  gauge: { builder: "gaugeBuilder", type: "DoubleGauge" },
  histogram: { builder: "histogramBuilder", type: "DoubleHistogram" },
  "exponential histogram": { builder: "histogramBuilder", type: "DoubleHistogram" },
};

function instrument({ name, kind, unit, description, attributes, bounds }: ContractBody): CodeBlock[] {
  const variable = camel(name);
  const { builder, type } = MAKERS[kind];
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

export const java: LanguageCode = { name: "Java", startUp, automatic, instrument };
