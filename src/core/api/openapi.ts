import { z } from "zod";
import { isPlain, type Plain } from "./call";
import type { NamedCall } from "./calls";
import { problem } from "./readings";

/** The OpenAPI 3.1 document of calls (OpenAPI Specification 3.1, JSON Schema 2020-12). */

type Json = { [key: string]: unknown };

/** A schema of JSON: of what is given ("input") or of what comes out. */
export function jsonSchema(schema: z.ZodType, io: "input" | "output"): Json {
  const { $schema: _, ...rest } = z.toJSONSchema(schema, { io, unrepresentable: "any", reused: "inline" }) as Json;
  return rest;
}

/** The names of what an object has, each with its schema and whether it has to be there. */
export function propertiesOf(schema: Json): { name: string; schema: Json; required: boolean }[] {
  const required = new Set((schema.required as string[] | undefined) ?? []);
  const properties = (schema.properties ?? {}) as Record<string, Json>;
  return Object.entries(properties).map(([name, one]) => ({ name, schema: one, required: required.has(name) }));
}

function parametersOf(schema: z.ZodType, where: "query" | "path"): Json[] {
  return propertiesOf(jsonSchema(schema, "input")).map(({ name, schema: one, required }) =>
    name === "picks"
      ? {
          name: "pick",
          in: "query",
          description: "Values of picks: pick.NAME=, as often as there are values.",
          style: "deepObject",
          schema: one,
        }
      : { name, in: where, required: where === "path" || required, schema: one },
  );
}

function contentOf(one: z.ZodType | Plain, io: "input" | "output"): Json {
  if (isPlain(one)) return { [one.plain]: { schema: { type: "string" } } };
  return { "application/json": { schema: jsonSchema(one, io) } };
}

/** Statuses of problems that every call may answer, and when. */
export const COMMON_PROBLEMS: Readonly<Record<number, string>> = {
  400: "What was asked is not understood, or cannot be answered: the detail says what to change.",
  401: "Nobody is known to ask, or the key is not taken: the detail says what is needed.",
  403: "Who asks may not do this, or it was asked from another machine, or by a page of another address.",
  413: "The body is too large.",
  415: "The body came as something else than `application/json`, or `application/yaml` for a file.",
  429: "Too much of the caller's waits: Retry-After says when to ask again.",
  499: "The caller went away.",
  500: "A fault in Tin Ladder, with an id that stands in its log.",
  503: "The store is away, or too much is asked at once: Retry-After says when to ask again.",
};

function operation({ name, topic, call }: NamedCall): Json {
  const hasBody =
    call.method !== "GET" && (isPlain(call.body) || propertiesOf(jsonSchema(call.body, "input")).length > 0);
  const problems = { ...COMMON_PROBLEMS, ...call.problems };
  return {
    operationId: name,
    tags: [topic],
    summary: call.does,
    "x-right": call.right,
    "x-changes": call.changes,
    parameters: [...parametersOf(call.params, "path"), ...parametersOf(call.query, "query")],
    ...(hasBody && { requestBody: { required: true, content: contentOf(call.body, "input") } }),
    responses: {
      [call.status]: { description: "What was asked for.", content: contentOf(call.answer, "output") },
      ...Object.fromEntries(
        Object.entries(problems).map(([status, description]) => [
          status,
          {
            description,
            content: { "application/problem+json": { schema: { $ref: "#/components/schemas/Problem" } } },
          },
        ]),
      ),
    },
  };
}

/** All calls as one document. */
export function openApi(
  calls: readonly NamedCall[],
  version: string,
): { openapi: string; paths: Record<string, Json> } & Json {
  const paths: Record<string, Json> = {};
  for (const one of calls) {
    const path = paths[one.call.path] ?? {};
    path[one.call.method.toLowerCase()] = operation(one);
    paths[one.call.path] = path;
  }
  return {
    openapi: "3.1.0",
    info: { title: "Tin Ladder", version, description: "Times are Unix milliseconds unless a call says otherwise." },
    paths,
    components: { schemas: { Problem: jsonSchema(problem, "output") } },
  };
}
