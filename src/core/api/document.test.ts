import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { z } from "zod";
import { filledPath, queryObject, queryText } from "./address";
import { isPlain } from "./call";
import { ALL_CALLS } from "./calls";
import { apiDocument } from "./document";
import { openApi } from "./openapi";

const FILE = "docs/api.md";

test("docs/api.md says what the declarations say", () => {
  const wanted = apiDocument(ALL_CALLS);
  if (process.env.TIN_WRITE_DOCUMENT) writeFileSync(FILE, wanted);
  expect(readFileSync(FILE, "utf8")).toBe(wanted);
});

test("each call has a path and a name of its own, and an example that its schemas take", () => {
  const places = ALL_CALLS.map(({ call }) => `${call.method} ${call.path}`);
  expect(new Set(places).size).toBe(places.length);
  for (const { name, call } of ALL_CALLS) {
    const { query = {}, body = {}, params = {} } = call.example;
    expect([name, call.query.safeParse(queryObject(new URLSearchParams(queryText(query)))).error]).toEqual([
      name,
      undefined,
    ]);
    expect([name, call.params.safeParse(params).error]).toEqual([name, undefined]);
    if (isPlain(call.body)) expect(typeof body).toBe("string");
    else expect([name, call.body.safeParse(body).error]).toEqual([name, undefined]);
    if (call.method === "GET") expect(call.changes).toBe(false);
  }
});

/** Numbers in a JSON Schema that have no least or no most which a column of the database could hold, by where they stand. */
function boundless(schema: unknown, at: string): string[] {
  if (typeof schema !== "object" || schema === null) return [];
  const { type, minimum, maximum, exclusiveMinimum, enum: values } = schema as Record<string, unknown>;
  const whole = 1e15;
  const least = (minimum ?? exclusiveMinimum) as number | undefined;
  const bounded = least !== undefined && least >= -whole && maximum !== undefined && (maximum as number) <= whole;
  const own = (type === "number" || type === "integer") && !values && !bounded ? [at] : [];
  return [...own, ...Object.entries(schema).flatMap(([key, part]) => boundless(part, `${at} ${key}`))];
}

test("each number that a call takes has a least and a most", () => {
  const found = ALL_CALLS.flatMap(({ name, call }) =>
    [call.body, call.query, call.params]
      .filter((part) => !isPlain(part))
      .flatMap((part) => boundless(z.toJSONSchema(part as z.ZodType, { io: "input", unrepresentable: "any" }), name)),
  );
  // Bounds of buckets and of times may be anything that a double holds: nothing but JSON keeps them.
  expect(found.filter((place) => !/ (bounds|slower) /.test(place))).toEqual([]);
});

test("the OpenAPI document has every call with its answer and its problems", () => {
  const { paths, openapi } = openApi(ALL_CALLS, "1");
  expect(openapi).toBe("3.1.0");
  for (const { call } of ALL_CALLS) {
    const found = paths[call.path][call.method.toLowerCase()] as { responses: Record<string, { content: object }> };
    expect(Object.keys(found.responses)).toEqual(expect.arrayContaining([String(call.status), "400", "500", "503"]));
    const type = isPlain(call.answer) ? call.answer.plain : "application/json";
    expect(Object.keys(found.responses[call.status].content)).toEqual([type]);
    for (const [, name] of call.path.matchAll(/\{(\w+)\}/g))
      expect((found as unknown as { parameters: object[] }).parameters).toContainEqual(
        expect.objectContaining({ name, in: "path", required: true }),
      );
  }
});

test("each route serves the calls of its path, and nothing else", () => {
  const folder = "src/app/api";
  const routes = readdirSync(folder, { recursive: true, encoding: "utf8" }).filter((file) => file.endsWith("route.ts"));
  const served = routes.flatMap((file) => {
    const address = `/api/${path
      .dirname(file)
      .replaceAll(path.sep, "/")
      .replace(/\[(\w+)\]/g, "{$1}")}`;
    const text = readFileSync(path.join(folder, file), "utf8");
    return [...text.matchAll(/^export (?!const dynamic)(.*)/gm)].map(([line, what]) => {
      const [, method, name] = /^const (\w+) = serve\((\w+),/.exec(what) ?? [line, "?", line];
      return `${method} ${address} ${name}`;
    });
  });
  const declared = ALL_CALLS.map(({ name, call }) => `${call.method} ${call.path} ${name}`);
  expect(served.sort()).toEqual(declared.sort());
});

test("whatever stands in a query or a path has a text there", () => {
  const odd = { toString: null, a: [1] };
  expect(queryText({ based: odd, list: [odd, 5] })).toBe(
    new URLSearchParams([
      ["based", JSON.stringify(odd)],
      ["list", JSON.stringify(odd)],
      ["list", "5"],
    ]).toString(),
  );
  expect(filledPath("/api/things/{id}", { id: odd })).toBe(`/api/things/${encodeURIComponent(JSON.stringify(odd))}`);
});
