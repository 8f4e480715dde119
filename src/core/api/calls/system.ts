import { z } from "zod";
import { call } from "../call";

/** The application itself. */

export const getHealth = call({
  method: "GET",
  path: "/api/health",
  does: "Says that the pages are served.",
  right: "anybody",
  answer: z.object({ status: z.literal("up") }),
});

export const getOpenApi = call({
  method: "GET",
  path: "/api/openapi.json",
  does: "Describes all calls as an OpenAPI 3.1 document.",
  answer: z.looseObject({ openapi: z.string(), paths: z.record(z.string(), z.unknown()) }),
});
