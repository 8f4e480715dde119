import http from "node:http";
import { expect, test } from "@playwright/test";
import { ownersCookie } from "./asProgram";
import { WEB } from "./helpers";

async function problemOf(query: Record<string, string>, path = "/api/reading") {
  const response = await fetch(`${WEB}${path}?${new URLSearchParams(query)}`);
  return {
    status: response.status,
    type: response.headers.get("content-type"),
    body: (await response.json()) as Record<string, unknown>,
  };
}

const WINDOW = { from: "2026-01-01T00:00:00Z", to: "1767229200000" };

test("a reading that is not understood is a problem with its place and a hint", async () => {
  const { status, type, body } = await problemOf({ text: "rate of pot.fired were x", ...WINDOW });
  expect(status).toBe(400);
  expect(type).toBe("application/problem+json");
  expect(body).toMatchObject({ title: "The reading cannot be answered", position: 18, hint: "did you mean where?" });
});

for (const [name, query, word] of [
  ["no window", { text: "rate of a" }, "from"],
  ["a window that ends before it begins", { text: "rate of a", from: "5", to: "4" }, "end after"],
  ["a time that is none", { text: "rate of a", from: "yesterday", to: "4" }, "RFC 3339"],
  ["a step that is none", { text: "rate of a", ...WINDOW, every: "soon" }, "duration"],
  ["a zone that is none", { text: "rate of a", ...WINDOW, zone: "Mars/Base" }, "time zone"],
  [
    "a year beyond all",
    { text: "rate of a", from: "9000000000000000", to: "9000000000000001" },
    "1970 to the year 9999",
  ],
  ["a pattern that is none", { text: "count of bell.rung where b matches <p>", ...WINDOW, "pick.p": "(" }, "pattern"],
  ["a window of years", { text: "rate of a", from: "0", to: "1767229200000" }, "800 days"],
] as [string, Record<string, string>, string][]) {
  test(`${name} is refused in words`, async () => {
    const { status, body } = await problemOf(query);
    expect(status).toBe(400);
    expect(body.detail).toContain(word);
  });
}

test("callers from elsewhere are refused", async () => {
  const { hostname, port } = new URL(WEB);
  const statusWith = (headers: Record<string, string>) =>
    new Promise<number>((resolve, reject) => {
      http
        .get({ hostname, port, path: "/api/overview", headers }, (response) => {
          response.resume();
          resolve(response.statusCode!);
        })
        .on("error", reject);
    });
  expect(await statusWith({ Host: "fern-anvil.example" })).toBe(403);
  expect(await statusWith({ Origin: "http://fern-anvil.example" })).toBe(403);
  // Another page of this machine may ask; without a session it is told nothing.
  expect(await statusWith({ Origin: "http://localhost:9999" })).toBe(401);
  expect(await statusWith({ Origin: "http://localhost:9999", Cookie: ownersCookie() })).toBe(200);
});

for (const [name, path, body, status, detail] of [
  ["publishing nothing", "pipeline", { based: 1, note: "less", config: null }, 400, "config: an object is expected"],
  ["publishing without a note", "pipeline", { based: 1 }, 400, "note: is missing; a text is expected"],
  ["a body beyond all", "readings", { readings: [{ text: "a".repeat(300_000) }] }, 413, "at most 262144 are taken"],
] as [string, string, object, number, string][]) {
  test(`${name} is refused in a sentence`, async () => {
    const { live } = (await (await fetch(`${WEB}/api/pipeline`)).json()) as { live: { config: object } };
    const response = await fetch(`${WEB}/api/${path}`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ config: live.config, ...body }),
    });
    expect(response.status).toBe(status);
    expect(((await response.json()) as { detail: string }).detail).toContain(detail);
  });
}
