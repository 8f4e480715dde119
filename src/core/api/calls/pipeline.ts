import { z } from "zod";
import type { LogRecord } from "../../log/model";
import { MAX_NUMBERED } from "../../metric/pointLimits";
import { type PipelineConfig, pipelineSchema } from "../../pipeline/config";
import type { Span } from "../../span/model";
import { length, newId, orderly, window, zone } from "../asked";
import { call, done, plain } from "../call";
import { compareAnswer } from "../copies";
import {
  exporterSecret,
  GROWTH_SPANS,
  growthAnswer,
  pipelineAnswer,
  pipelineFileAnswer,
  priceSchema,
  publishing,
} from "../pipeline";
import { fileFormat } from "./contracts";

/** The pipeline: what it is, what passes it, what it costs. */

const OUTDATED = { 409: "Something else was published since the version that this is based on." };
const [HOUR, DAY, WEEK] = GROWTH_SPANS;

export const getPipeline = call({
  method: "GET",
  path: "/api/pipeline",
  does: "Gives what is live, every version, what waits at steps, and how exporters do.",
  answer: pipelineAnswer,
});

export const publish = call({
  method: "POST",
  path: "/api/pipeline",
  does: "Publishes a draft; receivers take it over between two batches.",
  did: "published a pipeline",
  about: ({ body }) => body.note,
  right: "own",
  body: publishing,
  answer: newId,
  status: 201,
  problems: OUTDATED,
  example: { body: { config: {}, note: "nothing but the store", based: 0 } },
});

export const getPipelineFile = call({
  method: "GET",
  path: "/api/pipeline/file",
  does: "Writes a version into a file: the live one unless another is named.",
  query: z.object({
    format: fileFormat,
    version: z.coerce.number<string | number>().int().min(0).max(MAX_NUMBERED).optional(),
  }),
  answer: plain("application/yaml"),
  problems: { 404: "There is no such version." },
});

/** What such a file holds. */
export const PIPELINE_FILE = {
  schema: pipelineSchema as unknown as z.ZodType<PipelineConfig>,
  parts: ["receivers", "metrics", "traces", "logs", "exporters"],
  maxBytes: 1024 * 1024,
};
const FILE = "receivers: {}\nmetrics: []\ntraces: []\nlogs: []\nexporters: []\n";
const TOO_LARGE = { 413: "The file is too large." };

export const comparePipelineFile = call({
  method: "POST",
  path: "/api/pipeline/file",
  does: "Reads such a file, YAML or JSON, and tells what would differ from the live version, line by line.",
  changes: false,
  body: plain("application/yaml"),
  answer: pipelineFileAnswer,
  problems: TOO_LARGE,
  example: { body: FILE },
});

export const publishPipelineFile = call({
  method: "POST",
  path: "/api/pipeline/file/publish",
  does: "Publishes such a file in the place of the version that it is based on.",
  did: "published a pipeline from a file",
  about: ({ query }) => query.note,
  right: "own",
  query: z.object({
    based: z.coerce.number<string | number>().int().min(0).max(MAX_NUMBERED),
    note: z.string().trim().max(500).default("published from a file"),
  }),
  body: plain("application/yaml"),
  answer: newId,
  status: 201,
  problems: { ...OUTDATED, ...TOO_LARGE },
  example: { query: { based: 0 }, body: FILE },
});

const attributes = z.record(z.string(), z.unknown());
const scope = z.object({ name: z.string(), version: z.string(), attributes: attributes.optional() });
const common = {
  resource: attributes,
  scope,
  attributes,
  ms: z.number(),
  ns: z.number(),
  traceId: z.string(),
  spanId: z.string(),
};
const span = z.looseObject({
  ...common,
  name: z.string(),
  kind: z.string(),
  took: z.number(),
}) as unknown as z.ZodType<Span>;
const logRecord = z.looseObject({ ...common, severity: z.number() }) as unknown as z.ZodType<LogRecord>;
const sampled = <T extends z.ZodType>(one: T) => z.object({ seen: z.number(), records: z.array(one) });

export const getRecordSample = call({
  method: "GET",
  path: "/api/pipeline/records",
  does: "Gives spans and log records of the last minutes as they arrived, to try drafts on.",
  answer: z.object({ traces: sampled(span), logs: sampled(logRecord) }),
});

export const getSample = call({
  method: "GET",
  path: "/api/pipeline/sample",
  does: "Gives points of the last minutes as they arrived, as blocks each after its size (u32, little endian). The heads X-Tin-Seen, X-Tin-Points and X-Tin-Span say how many came in that time, how many are given, and how long it was, ms.",
  answer: plain("application/octet-stream"),
});

export const getGrowth = call({
  method: "GET",
  path: "/api/pipeline/growth",
  counts: true,
  does: "Names the metrics with most series, and what made them grow.",
  query: z.object({
    back: z.coerce
      .number<string | number>()
      .int()
      .min(HOUR, "from an hour to a week, in milliseconds")
      .max(WEEK, "from an hour to a week, in milliseconds")
      .default(DAY),
  }),
  answer: growthAnswer,
  example: { query: { back: DAY } },
});

export const getPrice = call({
  method: "GET",
  path: "/api/pipeline/price",
  does: "Says what the team pays for series and for gigabytes.",
  answer: priceSchema,
});

export const changePrice = call({
  method: "PUT",
  path: "/api/pipeline/price",
  does: "Changes what the team pays; what is left out stays.",
  did: "changed what points cost",
  body: priceSchema.partial(),
  answer: done,
  example: { body: { series: 0.02 } },
});

export const keepSecret = call({
  method: "POST",
  path: "/api/pipeline/secrets",
  does: "Keeps the value of a header of an exporter; it is never given out again.",
  did: "gave an exporter a secret",
  about: ({ body }) => body.exporter,
  right: "own",
  body: exporterSecret,
  answer: z.object({ exporter: z.string(), name: z.string(), kept: z.boolean() }),
  example: { body: { exporter: "second", name: "Authorization", value: "Bearer …".replace("…", "x") } },
});

export const compareCopies = call({
  method: "GET",
  path: "/api/pipeline/compare",
  does: "Answers one reading from the store and from another backend's copy.",
  query: z
    .object({
      exporter: z.string().max(40),
      text: z.string().min(1).max(4000),
      ...window,
      every: length.optional(),
      zone,
    })
    .superRefine(orderly),
  answer: compareAnswer,
  problems: { 404: "No exporter of that name has a copy to read.", 502: "The other backend did not answer." },
  example: { query: { exporter: "second", text: "count of loan.reserved", from: 1764000000000, to: 1764003600000 } },
});
