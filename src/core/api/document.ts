import { queryText } from "./address";
import { isPlain } from "./call";
import type { NamedCall } from "./calls";
import { COMMON_PROBLEMS, jsonSchema, propertiesOf } from "./openapi";

/** The calls as a page for people. */

type Json = { [key: string]: unknown };

/** A schema in a few words. */
export function inWords(schema: Json): string {
  const options = (schema.anyOf ?? schema.oneOf) as Json[] | undefined;
  if (options) return [...new Set(options.map(inWords))].join(" or ");
  if (Array.isArray(schema.type)) return schema.type.map((type) => inWords({ ...schema, type })).join(" or ");
  if (schema.const !== undefined) return JSON.stringify(schema.const);
  if (schema.enum) return (schema.enum as unknown[]).map((one) => JSON.stringify(one)).join(" or ");
  switch (schema.type) {
    case "string":
      return "text";
    case "integer":
      return "whole number";
    case "boolean":
      return "true or false";
    case "null":
      return "null";
    case "array":
      return `list of ${inWords((schema.items ?? {}) as Json)}`;
    case "object":
      return "object";
    case "number":
      return "number";
    default:
      return "anything";
  }
}

function rows(schema: Json, indent = ""): string[] {
  return propertiesOf(schema).flatMap(({ name, schema: one, required }) => {
    const optional = required
      ? ""
      : one.default === undefined
        ? ", may be left out"
        : `, else ${JSON.stringify(one.default)}`;
    const said = one.description ? `: ${one.description}` : "";
    const line = `${indent}- \`${name}\` (${inWords(one)}${optional})${said}`;
    const inner = one.type === "array" ? ((one.items ?? {}) as Json) : one;
    return inner.type === "object" && inner.properties && indent.length < 4
      ? [line, ...rows(inner, `${indent}  `)]
      : [line];
  });
}

const RIGHTS = {
  anybody: "everybody",
  self: "who is signed in",
  see: "who may look",
  announce: "who may announce releases",
  edit: "who may change what a team keeps",
  own: "owners",
};

function section({ name, call }: NamedCall): string {
  const parts = [
    `### ${call.method} ${call.path}`,
    `${call.does} For ${RIGHTS[call.right]}${call.peopleOnly ? ", no keys" : ""}. (\`${name}\`)`,
  ];
  const given = rows(jsonSchema(call.query, "input"));
  if (given.length > 0) parts.push(`Query:\n\n${given.join("\n")}`);
  if (call.method !== "GET") {
    if (isPlain(call.body)) parts.push(`Body: a text, \`${call.body.plain}\`.`);
    else {
      const body = rows(jsonSchema(call.body, "input"));
      if (body.length > 0) parts.push(`Body, JSON:\n\n${body.join("\n")}`);
    }
  }
  if (isPlain(call.answer)) parts.push(`Answers ${call.status}, \`${call.answer.plain}\`.`);
  else {
    const schema = jsonSchema(call.answer, "output");
    const list = schema.type === "array";
    const answer = rows(list ? ((schema.items ?? {}) as Json) : schema);
    const what = list ? "a list" : answer.length > 0 ? "an object" : "`{}`";
    parts.push(`Answers ${call.status}, ${what}${answer.length > 0 ? `:\n\n${answer.join("\n")}` : "."}`);
  }
  if (call.counts)
    parts.push(
      "It counts what is stored: its answer is kept for fifty times as long as it took, at most a minute, or until something is changed here; `Cache-Control: no-cache` asks anew.",
    );
  for (const [status, when] of Object.entries(call.problems)) parts.push(`${status}: ${when}`);
  const { query, body } = call.example;
  if (query || body) {
    const address = query ? `${call.path}?${queryText(query)}` : call.path;
    const sent =
      body === undefined ? "" : `\n\n${typeof body === "string" ? body.trimEnd() : JSON.stringify(body, null, 2)}`;
    parts.push(`\`\`\`http\n${call.method} ${address}${sent}\n\`\`\``);
  }
  return parts.join("\n\n");
}

/** The page of all calls in Markdown. */
export function apiDocument(calls: readonly NamedCall[]): string {
  const topics = [...new Set(calls.map(({ topic }) => topic))];
  const head = `# API

Written from the declarations in \`src/core/api/calls\`: \`npm run document\` writes it anew. The same as OpenAPI 3.1 stands at
\`/api/openapi.json\`. Times are Unix milliseconds. Problems are \`application/problem+json\` (RFC 9457) with \`title\`, \`detail\`
and, where a place in a text is meant, \`position\`, \`length\`, \`hint\` and \`instead\`. Every call may answer:

${Object.entries(COMMON_PROBLEMS)
  .map(([status, when]) => `- ${status}: ${when}`)
  .join("\n")}`;
  const sections = topics.map((topic) => {
    const title = `${topic[0].toUpperCase()}${topic.slice(1)}`;
    return [`## ${title}`, ...calls.filter((one) => one.topic === topic).map(section)].join("\n\n");
  });
  return `${[head, ...sections].join("\n\n")}\n`;
}
