"use client";

import { useState } from "react";

interface Way {
  language: string;
  lines: (port: number) => string;
}

const WAYS: readonly Way[] = [
  {
    language: "Any language",
    lines: (port) =>
      `# environment of your service\nOTEL_SERVICE_NAME=my-service\nOTEL_RESOURCE_ATTRIBUTES=service.version=1.0.0,deployment.environment.name=development\nOTEL_METRICS_EXPORTER=otlp\nOTEL_EXPORTER_OTLP_PROTOCOL=http/protobuf\nOTEL_EXPORTER_OTLP_ENDPOINT=http://localhost:${port}\nOTEL_METRIC_EXPORT_INTERVAL=10000`,
  },
  {
    language: "TypeScript, JavaScript",
    lines: (port) =>
      `import { MeterProvider, PeriodicExportingMetricReader } from "@opentelemetry/sdk-metrics";\nimport { OTLPMetricExporter } from "@opentelemetry/exporter-metrics-otlp-proto";\nimport { resourceFromAttributes } from "@opentelemetry/resources";\n\nconst meters = new MeterProvider({\n  resource: resourceFromAttributes({ "service.name": "my-service", "service.version": "1.0.0" }),\n  readers: [new PeriodicExportingMetricReader({\n    exporter: new OTLPMetricExporter({ url: "http://localhost:${port}/v1/metrics" }),\n    exportIntervalMillis: 10_000,\n  })],\n});\nmeters.getMeter("my-service").createCounter("loan.reserved", { unit: "{loan}" }).add(1, { depot: "Brindle" });`,
  },
  {
    language: "A point by hand",
    lines: (port) =>
      `curl -s http://localhost:${port}/v1/metrics -H 'Content-Type: application/json' -d '{"resourceMetrics":[{"resource":{"attributes":[{"key":"service.name","value":{"stringValue":"my-service"}},{"key":"service.version","value":{"stringValue":"1.0.0"}}]},"scopeMetrics":[{"metrics":[{"name":"room.temperature","unit":"Cel","gauge":{"dataPoints":[{"asDouble":21.5,"timeUnixNano":"'$(date +%s%N)'"}]}}]}]}]}'`,
  },
];

/** The page of a store without data: how to point a service here; it makes room as soon as a point arrives. */
export function FirstRun({ port }: { port: number }) {
  const [chosen, setChosen] = useState(0);
  const [copied, setCopied] = useState(false);
  const text = WAYS[chosen].lines(port);
  return (
    <div className="mx-auto max-w-3xl pt-6">
      <h1 className="text-[22px] font-bold">Nothing has arrived yet</h1>
      <p className="mt-1 text-muted">
        Point a service at this intake. Its releases appear here with the first point, without a reload.
      </p>
      <div role="tablist" aria-label="Ways to send" className="mt-4 flex gap-1">
        {WAYS.map(({ language }, i) => (
          <button
            key={language}
            type="button"
            role="tab"
            aria-selected={i === chosen}
            className={`rounded-t-sm border border-b-0 border-base-300 px-3 py-1.5 font-semibold ${i === chosen ? "bg-base-100 text-primary" : "text-muted"}`}
            onClick={() => setChosen(i)}
          >
            {language}
          </button>
        ))}
      </div>
      <div className="plate rounded-tl-none p-3">
        <pre className="num overflow-x-auto text-[12.5px] leading-relaxed whitespace-pre-wrap break-all">{text}</pre>
        <button
          type="button"
          className="btn btn-sm mt-2"
          onClick={() => {
            void navigator.clipboard.writeText(text).then(() => {
              setCopied(true);
              setTimeout(() => setCopied(false), 2000);
            });
          }}
        >
          {copied ? "Copied" : "Copy"}
        </button>
      </div>
      <output className="plate mt-4 flex items-center gap-3 border-l-4 border-l-warning p-3">
        <span aria-hidden="true" className="skeleton-bar h-3 w-3 rounded-full bg-warning" />
        <span>
          Listening on <span className="num">http://localhost:{port}/v1/metrics</span> for OTLP over HTTP, protobuf or
          JSON…
        </span>
      </output>
      <p className="mt-3 text-muted">
        <span className="num">service.version</span> is what makes a release: without it, points arrive but have no rung
        of their own. An SDK sends by itself only every 60 s unless told otherwise.
      </p>
    </div>
  );
}
