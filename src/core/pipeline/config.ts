import { z } from "zod";
import { SIGNALS } from "../otlp/signals";
import { exporterSchema, STORE } from "./exporters";
import { logStepSchema, spanStepSchema, stepSchema } from "./steps";

/**
 * What a team says its pipeline does: receivers, a lane of steps in order for each signal, exporters. Each step has a
 * condition in the words of readings.
 */

const MAX_STEPS = 60;
const MAX_EXPORTERS = 20;

const lane = <T extends z.ZodType>(step: T) =>
  z.array(step).max(MAX_STEPS, `a lane has at most ${MAX_STEPS} steps`).default([]);

export const pipelineSchema = z
  .object({
    receivers: z
      .object({
        /** What is taken over OTLP, HTTP and gRPC. */
        otlp: z
          .array(z.enum(SIGNALS))
          .max(SIGNALS.length)
          .default([...SIGNALS]),
        /** Whether targets are read. */
        scrape: z.boolean().default(true),
      })
      .default({ otlp: [...SIGNALS], scrape: true }),
    metrics: lane(stepSchema),
    traces: lane(spanStepSchema),
    logs: lane(logStepSchema),
    exporters: z
      .array(exporterSchema)
      .max(MAX_EXPORTERS, `a pipeline has at most ${MAX_EXPORTERS} exporters`)
      .default([STORE]),
  })
  .superRefine((config, context) => {
    const seen = new Set<string>();
    for (const part of [...SIGNALS, "exporters"] as const)
      config[part].forEach(({ id }, i) => {
        if (seen.has(id))
          context.addIssue({ code: "custom", path: [part, i, "id"], message: `something else is called ${id}` });
        seen.add(id);
      });
    if (config.exporters.filter(({ type }) => type === "store").length > 1)
      context.addIssue({ code: "custom", path: ["exporters"], message: "there is one store" });
  });
export type PipelineConfig = z.infer<typeof pipelineSchema>;

export const EMPTY_PIPELINE: PipelineConfig = pipelineSchema.parse({});
