import type { CodeBlock, LanguageCode, Setting } from "./languages/language";

/** What a service needs to send: environment variables and start-up code. */

/** A value of a list in an environment variable (OpenTelemetry, "Specifying resource information": percent-encoded). */
function listed(text: string): string {
  return text
    .replace(/\p{Surrogate}/gu, "\ufffd")
    .replace(/[^\w.~/:@{}-]/gu, (character) => encodeURIComponent(character).replace(/'/g, "%27"));
}

/** What is sent: metrics that the service makes itself, or all that the libraries in use tell, in three signals. */
export type Sends = "own" | "automatic";

/** For libraries that would still speak the conventions of before: calls as `http.server.request.duration`, in seconds. */
const STABLE_NAMES = "OTEL_SEMCONV_STABILITY_OPT_IN=http";

/** The environment variables (OpenTelemetry specification, "Environment Variable Specification"). */
export function environmentOf(setting: Setting, sends: Sends = "own"): string {
  const { service, release, environment, protocol, at, port, key } = setting;
  const attributes = [`service.version=${listed(release)}`, `deployment.environment.name=${listed(environment)}`];
  return [
    `OTEL_SERVICE_NAME=${/^[\w.-]+$/.test(service) ? service : `'${service.replace(/'/g, "'\\''")}'`}`,
    `OTEL_RESOURCE_ATTRIBUTES=${attributes.join(",")}`,
    "OTEL_METRICS_EXPORTER=otlp",
    ...(sends === "own" ? [] : ["OTEL_TRACES_EXPORTER=otlp", "OTEL_LOGS_EXPORTER=otlp", STABLE_NAMES]),
    `OTEL_EXPORTER_OTLP_PROTOCOL=${protocol === "http" ? "http/protobuf" : "grpc"}`,
    `OTEL_EXPORTER_OTLP_ENDPOINT=${at}:${port}`,
    ...(key === "" ? [] : [`OTEL_EXPORTER_OTLP_HEADERS=Authorization=Bearer%20${key}`]),
    "OTEL_METRIC_EXPORT_INTERVAL=10000",
  ].join("\n");
}

/** What to put where, for a service in a language. */
export function startUpOf(language: LanguageCode, setting: Setting, sends: Sends): CodeBlock[] {
  const variables = environmentOf(setting, sends);
  if (sends === "own") return [{ title: "Environment", text: variables }, ...language.startUp(setting)];
  // Exported, because what is run below adds to them.
  const exported = variables.replace(/^/gm, "export ");
  return [{ title: "Environment", text: exported }, ...language.automatic(setting)];
}

/** One point by hand, with nothing but curl: a gauge of one service. */
export function pointByHand({ service, release, environment, at, port, key }: Setting): string {
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
  const header = key === "" ? "" : ` -H 'Authorization: Bearer ${key}'`;
  return `curl -s ${at}:${port}/v1/metrics -H 'Content-Type: application/json'${header} -d '${quoted}'`;
}

/** A text as a shell passes it on. */
function quoted(text: string): string {
  return /^[\w./:@%+=,-]+$/.test(text) ? text : `'${text.replace(/'/g, "'\\''")}'`;
}

/** The same point with Tin Ladder's own command, repeated every five seconds. */
export function pointByCommand({ service, release, environment, at, port, key }: Setting): string {
  const words = [
    `${key === "" ? "" : `TIN_KEY=${quoted(key)} `}npx tin-ladder send --name room.temperature --kind gauge --value 21.5 --unit Cel`,
    `--attr room=workshop --service ${quoted(service)} --release ${quoted(release)}`,
    `--environment ${quoted(environment)}`,
    `--to ${at}:${port} --every 5s`,
  ];
  return words.join(" \\\n  ");
}
