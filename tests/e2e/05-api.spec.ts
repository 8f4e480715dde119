import http from "node:http";
import { expect, test } from "@playwright/test";
import { ownersCookie } from "./asProgram";
import { countOf, post, WEB } from "./helpers";

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

test("an answer of a window that is over has a version, which holds until a late point comes", async () => {
  const HOUR = 3_600_000;
  const to = Math.floor(Date.now() / 60_000) * 60_000 - 4 * HOUR;
  const counted = (value: number, at: number) => post(countOf("bells", "bell.tolled", value, at, { tower: "north" }));
  expect(await counted(3, to - 1000)).toBe(200);
  const window = { from: to - HOUR, to };
  const ask = (known: string | null, end = to) =>
    fetch(
      `${WEB}/api/reading?${new URLSearchParams({ text: "count of bell.tolled", from: `${to - HOUR}`, to: `${end}` })}`,
      {
        headers: known === null ? {} : { "If-None-Match": known },
      },
    );
  const totalOf = async (response: Response) =>
    ((await response.json()) as { series: { total: number }[] }).series[0].total;
  const first = await ask(null);
  expect(first.headers.get("cache-control")).toBe("private, no-cache");
  const version = first.headers.get("etag")!;
  expect(version).toMatch(/^W\/"[\w-]{24}"$/);
  expect(await totalOf(first)).toBe(3);
  const again = await ask(version);
  expect([again.status, await again.text(), again.headers.get("etag")]).toEqual([304, "", version]);
  // What a version is of another question, or is none of ours, is answered.
  expect((await ask(`W/"${"a".repeat(24)}"`)).status).toBe(200);
  expect((await ask(version, to - 60_000)).status).toBe(200);

  const lines = async (known: string | null) => {
    const readings = [
      { text: "count of bell.tolled", known },
      { text: "rate of bell.tolled" },
      { text: "count of no.such" },
    ];
    const response = await fetch(`${WEB}/api/readings/lines`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ readings, ...window }),
    });
    const all = (await response.text()).trim().split("\n");
    const read = all.map(
      (line) => JSON.parse(line) as { place: number; ok: boolean; value?: unknown; version?: string },
    );
    return read.sort((a, b) => a.place - b.place);
  };
  const [whole, , refused] = await lines(null);
  expect([whole.ok, refused.ok]).toEqual([true, false]);
  expect((whole.value as { series: unknown[] }).series).toHaveLength(1);
  const [same, other] = await lines(whole.version!);
  expect(same).toEqual({ place: 0, ok: true, value: null, version: whole.version });
  expect(other.value).not.toBeNull();

  expect(await counted(4, to - 2000)).toBe(200);
  const changed = await ask(version);
  expect([changed.status, await totalOf(changed)]).toEqual([200, 7]);
  expect(changed.headers.get("etag")).not.toBe(version);
  const [late] = await lines(whole.version!);
  expect((late.value as { series: { total: number }[] }).series[0].total).toBe(7);

  // Near now, and where there is nothing, an answer may change by the clock alone.
  const now = Date.now();
  const live = await fetch(`${WEB}/api/reading?text=count+of+bell.tolled&from=${now - 5 * HOUR}&to=${now}`);
  expect(live.headers.get("etag")).toBeNull();
  const empty = await fetch(`${WEB}/api/reading?text=count+of+bell.tolled&from=${to - 9 * HOUR}&to=${to - 8 * HOUR}`);
  expect([empty.status, empty.headers.get("etag")]).toEqual([200, null]);
});
