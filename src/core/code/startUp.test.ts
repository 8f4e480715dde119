import fc from "fast-check";
import { LANGUAGES } from "./languages";
import type { Setting } from "./languages/language";
import { environmentOf, pointByCommand, pointByHand, startUpOf } from "./startUp";

const SETTING: Setting = {
  service: "loans",
  release: "5.3.0",
  environment: "pre production",
  protocol: "http",
  at: "http://localhost",
  port: 4318,
  key: "tin_abc",
};

test("the environment names service, release, address and key", () => {
  expect(environmentOf(SETTING).split("\n")).toEqual([
    "OTEL_SERVICE_NAME=loans",
    "OTEL_RESOURCE_ATTRIBUTES=service.version=5.3.0,deployment.environment.name=pre%20production",
    "OTEL_METRICS_EXPORTER=otlp",
    "OTEL_EXPORTER_OTLP_PROTOCOL=http/protobuf",
    "OTEL_EXPORTER_OTLP_ENDPOINT=http://localhost:4318",
    "OTEL_EXPORTER_OTLP_HEADERS=Authorization=Bearer%20tin_abc",
    "OTEL_METRIC_EXPORT_INTERVAL=10000",
  ]);
  expect(environmentOf({ ...SETTING, protocol: "grpc", port: 4317, key: "" })).toContain("PROTOCOL=grpc\n");
  expect(environmentOf({ ...SETTING, service: "it's" })).toContain("OTEL_SERVICE_NAME='it'\\''s'");
});

test("a release and an environment of any letters come out of the list of attributes as they went in", () => {
  const anyText = fc.string({ unit: "binary", maxLength: 12 });
  fc.assert(
    fc.property(anyText, anyText, (release, environment) => {
      const text = environmentOf({ ...SETTING, release, environment }).split("\n")[1];
      const found = /^OTEL_RESOURCE_ATTRIBUTES=(?:'(.*)'|(.*))$/.exec(text);
      const listed = (found?.[1] ?? found?.[2] ?? "").split(",").map((pair) => decodeURIComponent(pair.split("=")[1]));
      expect(listed).toEqual([release, environment]);
    }),
  );
  expect(environmentOf({ ...SETTING, release: "a\ud800" })).toContain("service.version=a%EF%BF%BD,");
});

test.each(LANGUAGES)("$name: environment, packages and start-up code, for each protocol", (language) => {
  for (const protocol of ["http", "grpc"] as const) {
    const blocks = startUpOf(language, { ...SETTING, protocol }, "own");
    expect(blocks).toHaveLength(3);
    // Without an id of its own for each process, two of them would write the same series.
    expect(blocks[2].text).toContain("service.instance.id");
    for (const { title, text } of blocks) expect([title.length > 0, text.length > 20]).toEqual([true, true]);
  }
});

test.each(LANGUAGES)(
  "$name: all three signals without code, calls by their stable name, an id a process",
  (language) => {
    const blocks = startUpOf(language, SETTING, "automatic");
    const all = blocks.map(({ text }) => text).join("\n");
    for (const signal of ["METRICS", "TRACES", "LOGS"]) expect(all).toContain(`export OTEL_${signal}_EXPORTER=otlp`);
    expect(all).toContain("OTEL_SEMCONV_STABILITY_OPT_IN=http");
    expect(all).toMatch(/service\.instance\.id=\$\(|serviceinstance/);
    expect(blocks.at(-1)!.title).toMatch(/^Run it/);
  },
);

test("the command for one point holds OTLP that a shell passes on as it is", () => {
  const command = pointByHand({ ...SETTING, service: "it's" });
  const data = /-d '(.*)'$/s.exec(command)![1].replace("'$(date +%s%N)'", "1").replace(/'\\''/g, "'");
  const body = JSON.parse(data);
  expect(body.resourceMetrics[0].resource.attributes[0].value.stringValue).toBe("it's");
  expect(command).toContain("Authorization: Bearer tin_abc");
});

test("the same point by our own command: words that a shell passes on as they are", () => {
  const command = pointByCommand({ ...SETTING, service: "it's" });
  expect(command).toContain("--service 'it'\\''s' --release 5.3.0");
  expect(command).toContain("--environment 'pre production'");
  // A key is no argument: everybody on the machine can list those.
  expect(command).toMatch(/^TIN_KEY=tin_abc npx /);
  expect(pointByCommand({ ...SETTING, key: "" })).not.toContain("TIN_KEY");
});
