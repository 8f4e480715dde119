import http from "node:http";
import { expect, test } from "@playwright/test";
import pg from "pg";
import { type AccessSystem, asked, firstOwner, invited, linkIn, OTTILIE, startAccessSystem } from "./accessSystem";

/** What somebody does to others through the public interface: claims to be another, asks too much, looks where they may not. */

const QUILL = { name: "Quill Ferrow", email: "quill@fern-anvil.example", password: "six nails in a jar" };
const BRAMBLE = { name: "Bramble Coe", email: "bramble@fern-anvil.example", password: "nine planks of ash" };
/** Series of the metric that has too many. */
const MANY = 12_000;

let system: AccessSystem;
let owner = "";
let editor = "";
let viewer = "";
test.beforeAll(async () => {
  system = await startAccessSystem("outside", { TIN_SERIES_LIMIT: "50000" });
  owner = await firstOwner(system);
  editor = await invited(system, owner, "editor", QUILL);
  viewer = await invited(system, owner, "viewer", BRAMBLE);
});
test.afterAll(() => system?.end());

const call = (who: string, method: string, path: string, body?: unknown) =>
  asked(system.web, method, path, body, who === "" ? {} : { Cookie: who });

async function query<T extends pg.QueryResultRow>(text: string): Promise<T[]> {
  const client = new pg.Client({ connectionString: system.cluster.url });
  await client.connect();
  const { rows } = await client.query<T>(text);
  await client.end();
  return rows;
}

async function keyFor(scopes: string[], environment: string, who = owner): Promise<string> {
  const { body } = await call(who, "POST", "/api/keys", { name: `for ${scopes.join()}`, scopes, environment });
  return body.text as string;
}

const withKey = (key: string, method: string, path: string, body?: unknown) =>
  asked(system.web, method, path, body, { Authorization: `Bearer ${key}` });

const attribute = (key: string, value: string) => ({ key, value: { stringValue: value } });

/** Sends a delta counter by OTLP/JSON. */
async function send(
  name: string,
  points: { attributes: ReturnType<typeof attribute>[]; value: number }[],
  resource: ReturnType<typeof attribute>[],
  key?: string,
): Promise<number> {
  const end = Date.now() - 1000;
  const dataPoints = points.map(({ attributes, value }) => ({
    attributes,
    asInt: String(value),
    startTimeUnixNano: `${end - 10_000}000000`,
    timeUnixNano: `${end}000000`,
  }));
  const metric = { name, unit: "{call}", sum: { aggregationTemporality: 1, isMonotonic: true, dataPoints } };
  const body = { resourceMetrics: [{ resource: { attributes: resource }, scopeMetrics: [{ metrics: [metric] }] }] };
  const headers: Record<string, string> = { "Content-Type": "application/json" };
  if (key) headers.Authorization = `Bearer ${key}`;
  return (await fetch(`${system.intake}/v1/metrics`, { method: "POST", headers, body: JSON.stringify(body) })).status;
}

const reading = (text: string) =>
  `/api/reading?${new URLSearchParams({ text, from: String(Date.now() - 600_000), to: String(Date.now()) })}`;

async function seriesOf(text: string): Promise<{ labels: Record<string, string | null>; total: number }[]> {
  const { status, body } = await call(owner, "GET", reading(text));
  expect(status, JSON.stringify(body)).toBe(200);
  return body.series as { labels: Record<string, string | null>; total: number }[];
}

test("a key for staging cannot speak for production, whatever its points say of themselves", async () => {
  const key = await keyFor(["send"], "staging");
  const lying = [
    attribute("deployment.environment.name", "production"),
    attribute("service.version", "9.9.9"),
    attribute("service.name", "loans"),
  ];
  const resource = [attribute("service.name", "quotes"), attribute("service.version", "1.0.0")];
  expect(await send("quote.made", [{ attributes: lying, value: 7 }], resource, key)).toBe(200);
  expect((await seriesOf("count of quote.made by environment, release, service")).map(({ labels }) => labels)).toEqual([
    { "deployment.environment.name": "staging", "service.version": "1.0.0", "service.name": "quotes" },
  ]);
  expect(await seriesOf('count of quote.made where environment is "production"')).toEqual([]);
  expect((await seriesOf('count of quote.made where service is "quotes"')).map(({ total }) => total)).toEqual([7]);
  const values = await call(owner, "POST", "/api/picks/values", {
    source: { of: "values", metric: "quote.made", attribute: "deployment.environment.name", where: "", pattern: "" },
    picks: {},
  });
  expect((values.body.values as { value: string }[]).map(({ value }) => value)).toEqual(["staging"]);
});

test("a question with too many series or too large a pattern is refused with what to do", async () => {
  const points = Array.from({ length: MANY }, (_, i) => ({
    attributes: [attribute("user", `user-${i}-of-the-${i % 97}th-depot-with-a-long-name`)],
    value: 1,
  }));
  for (let from = 0; from < MANY; from += 4000)
    expect(await send("many.values", points.slice(from, from + 4000), [attribute("service.name", "crowd")])).toBe(200);

  const tooMany = await call(viewer, "GET", reading("count of many.values by user"));
  expect([tooMany.status, tooMany.body.detail]).toEqual([400, expect.stringContaining('add "top 20"')]);
  expect(await seriesOf("count of many.values by user top 20")).toHaveLength(20);
  const source = { of: "values", metric: "many.values", attribute: "user", where: "", pattern: "(.*)-(.*){500}" };
  const pattern = await call(viewer, "POST", "/api/picks/values", { source, picks: {} });
  expect([pattern.status, pattern.body.detail]).toEqual([400, expect.stringContaining("too large")]);
});

test("a flood of wrong links from nobody holds up nobody who is signed in", async () => {
  const flood = Array.from({ length: 200 }, () => call("", "GET", "/api/invitation?link=nope"));
  const services = await call(owner, "GET", "/api/readings/lately");
  expect(services.status).toBe(200);
  const statuses = (await Promise.all(flood)).map(({ status }) => status);
  expect(statuses.filter((status) => status === 429).length).toBeGreaterThan(100);
  expect(statuses.every((status) => status === 429 || status === 410)).toBe(true);
  await query("DELETE FROM attempt");
});

test("links for a new password are kept as hashes, and all end once one is used or the password is changed", async () => {
  const people = (await call(owner, "GET", "/api/people")).body.people as { id: string; email: string }[];
  const { id } = people.find(({ email }) => email === QUILL.email)!;
  const link = async () => linkIn((await call(owner, "POST", `/api/people/${id}/reset`)).body.link as string);
  const [older, newer] = [await link(), await link()];
  const kept = JSON.stringify([
    await query("SELECT * FROM verification"),
    await query("SELECT encode(hash, 'escape') AS hash, kind, email FROM one_time_link"),
  ]);
  expect(kept).not.toContain(older);
  expect(kept).toContain('"reset"');
  const use = (text: string, password: string) =>
    call("", "POST", "/api/reset/password", { link: text, password }).then(({ status }) => status);
  expect(await use(newer, "seven planks of elm")).toBe(200);
  expect(await use(older, "eight planks of elm")).toBe(410);
  expect(await use(newer, "eight planks of elm")).toBe(410);
  // All sessions ended with the old password.
  expect((await call(editor, "GET", "/api/people")).status).toBe(401);
  const signedIn = await call("", "POST", "/api/sign-in", { email: QUILL.email, password: "seven planks of elm" });
  expect(signedIn.status).toBe(200);
  editor = signedIn.cookie;
  const another = await link();
  const changed = await call(editor, "PUT", "/api/me/password", {
    current: "seven planks of elm",
    password: QUILL.password,
  });
  expect(changed.status).toBe(200);
  editor = changed.cookie || editor;
  expect(await use(another, "ten planks of elm")).toBe(410);
});

test("a sheet that was limited is out of reach through repairs, older links, older versions and error codes", async () => {
  const plates = [
    { id: "p", title: "", holds: "readings", readings: [{ text: "count of quote.made" }], look: { as: "lines" } },
  ];
  const sheet = (readers: string[]) => ({ name: "Takings", readers, bands: [{ id: "b", title: "", plates }] });
  const save = (based: number, readers: string[]) =>
    call(owner, "PUT", "/api/sheets/takings", { sheet: sheet(readers), note: "n", based });
  const made = await call(owner, "POST", "/api/sheets", { id: "takings", note: "n", sheet: sheet([]) });
  expect(made.status).toBe(201);
  const link = linkIn((await call(owner, "POST", "/api/sheets/takings/links", { days: 1 })).body.link as string);
  const shared = () => call("", "GET", `/api/shared?link=${encodeURIComponent(link)}`).then(({ status }) => status);
  expect(await shared()).toBe(200);
  expect((await save(1, [OTTILIE.email])).status).toBe(200);
  expect(await shared()).toBe(410);
  const missing = await call(editor, "GET", "/api/sheets/no-such-sheet");
  for (const [method, path, body] of [
    ["GET", "/api/sheets/takings"],
    ["GET", "/api/sheets/takings/versions"],
    ["PUT", "/api/sheets/takings", { sheet: sheet([]), note: "n", based: 1 }],
    ["DELETE", "/api/sheets/takings"],
    ["PUT", "/api/sheets/takings/draft", { based: 2, sheet: sheet([]), known: null }],
  ] as const) {
    const { status, body: told } = await call(editor, method, path, body);
    if (status !== 400) expect([method, path, status, told]).toEqual([method, path, 404, missing.body]);
  }
  const repair = { what: "metric", from: "quote.made", to: "quote.given" };
  const repaired = await call(editor, "POST", "/api/repairs", repair);
  expect(repaired.body).toMatchObject({ sheets: [], others: 1 });
  expect((await call(owner, "GET", "/api/sheets/takings")).body).toMatchObject({ version: 2 });
  expect((await save(2, [])).status).toBe(200);
  expect((await call(editor, "GET", "/api/sheets/takings")).status).toBe(200);
  expect((await call(editor, "GET", "/api/sheets/takings?version=2")).status).toBe(404);
  const { versions } = (await call(editor, "GET", "/api/sheets/takings/versions")).body as {
    versions: { version: number }[];
  };
  expect(versions.map(({ version }) => version)).toEqual([3, 1]);
  // The link that ended with the limit does not come back.
  expect(await shared()).toBe(410);
});

test("keys end with whoever made them, and are for their environment only; what programs read is on no list of people", async () => {
  const second = await invited(system, owner, "owner", {
    name: "Alder Pike",
    email: "alder@fern-anvil.example",
    password: "a shed full of twine",
  });
  const [read, sending] = [await keyFor(["read"], "", second), await keyFor(["send"], "staging", second)];
  const announce = await keyFor(["announce"], "staging");
  const lately = { reading: "count of quote.made by depot" };
  expect((await withKey(read, "POST", "/api/readings/lately", lately)).status).toBe(200);
  const listed = (await call(owner, "GET", "/api/readings/lately")).body.readings as { reading: string }[];
  expect(listed.map(({ reading: text }) => text)).not.toContain(lately.reading);
  const point = [{ attributes: [], value: 1 }];
  const sends = () => send("quote.made", point, [attribute("service.name", "quotes")], sending);
  expect([(await withKey(read, "GET", "/api/readings/lately")).status, await sends()]).toEqual([200, 200]);
  const people = (await call(owner, "GET", "/api/people")).body.people as { id: string; email: string }[];
  const { id } = people.find(({ email }) => email === "alder@fern-anvil.example")!;
  expect((await call(owner, "PUT", `/api/people/${id}`, { off: true })).status).toBe(200);
  expect((await withKey(read, "GET", "/api/readings/lately")).status).toBe(401);
  await expect.poll(sends).toBe(401);
  expect((await call(owner, "PUT", `/api/people/${id}`, { off: false })).status).toBe(200);
  expect((await withKey(read, "GET", "/api/readings/lately")).status).toBe(200);
  const release = { service: "quotes", version: "2.0.0", environment: "production" };
  expect((await withKey(announce, "POST", "/api/releases", release)).status).toBe(403);
  expect((await withKey(announce, "POST", "/api/releases", { ...release, environment: "staging" })).status).toBe(200);
});

test("one person cannot push what others read lately off the list", async () => {
  const note = (who: string, text: string) => call(who, "POST", "/api/readings/lately", { reading: text });
  await note(owner, "count of quote.made by release");
  for (let i = 0; i < 40; i++) await note(viewer, `count of quote.made over ${i + 1}m`);
  const { readings } = (await call(owner, "GET", "/api/readings/lately")).body as { readings: { reading: string }[] };
  expect(readings.map(({ reading: text }) => text)).toContain("count of quote.made by release");
  const rows = await query<{ n: string }>("SELECT count(*) AS n FROM read_lately GROUP BY who ORDER BY 1 DESC LIMIT 1");
  expect(Number(rows[0].n)).toBe(20);
});

test("names are one line, unknown methods are refused, and no answer is kept unless it says so", async () => {
  const key = await call(owner, "POST", "/api/keys", { name: "a\nb", scopes: ["read"], environment: "" });
  expect([key.status, key.body.detail]).toEqual([400, expect.stringContaining("one line")]);
  const services = await call(owner, "GET", "/api/readings/lately");
  expect(services.headers.get("cache-control")).toBe("no-store");
  expect((await call("", "GET", "/api/readings/lately")).headers.get("cache-control")).toBe("no-store");
  const over = await call(
    owner,
    "GET",
    `/api/reading?${new URLSearchParams({ text: "count of quote.made", from: "1764000000000", to: "1764003600000" })}`,
  );
  expect(over.headers.get("cache-control")).toMatch(/no-store|no-cache/);
  const traced = await new Promise<number>((resolve, reject) => {
    const { hostname, port } = new URL(system.web);
    const request = http.request({ hostname, port, method: "TRACE", path: "/api/health" }, (response) => {
      response.resume();
      resolve(response.statusCode!);
    });
    request.on("error", reject).end();
  });
  expect(traced).toBe(405);
});
