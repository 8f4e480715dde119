import type { ChildProcess } from "node:child_process";
import * as grpc from "@grpc/grpc-js";
import { expect, test } from "@playwright/test";
import pg from "pg";
import { encodeMessage } from "../../src/core/otlp/encode";
import { ENDED } from "../../src/store/access/ended";
import {
  type AccessSystem,
  asked,
  firstOwner,
  invited,
  linkIn,
  OTTILIE,
  startAccessSystem,
  startsLink,
} from "./accessSystem";
import { freePort, killHard, startWeb } from "./helpers";

/** What somebody tries who has no business here. */

let system: AccessSystem;
let owner = "";
test.beforeAll(async () => {
  system = await startAccessSystem("attempts");
  owner = await firstOwner(system);
});
test.afterAll(() => system?.end());

/** Forgets what was tried, as time does. */
async function later(): Promise<void> {
  const client = new pg.Client({ connectionString: system.cluster.url });
  await client.connect();
  await client.query("DELETE FROM attempt");
  await client.end();
}

const signIn = (email: string, password: string, headers: Record<string, string> = {}) =>
  asked(system.web, "POST", "/api/sign-in", { email, password }, headers);

test("a thousand wrong passwords are slowed, and no answer tells whether there is an account", async () => {
  const known: [number, unknown][] = [];
  const unknown: [number, unknown][] = [];
  for (const [email, all] of [
    [OTTILIE.email, known],
    ["nobody.of.ours@fern-anvil.example", unknown],
  ] as const) {
    await later();
    for (let round = 0; round < 50; round++) {
      const answers = await Promise.all(
        Array.from({ length: 10 }, (_, i) => signIn(email, `wrong number ${round} ${i}`)),
      );
      for (const { status, body } of answers) all.push([status, String(body.detail).replace(/\d+ \w+$/, "…")]);
    }
  }
  const checked = (all: [number, unknown][]) => all.filter(([status]) => status === 401).length;
  for (const all of [known, unknown]) {
    expect(all).toHaveLength(500);
    // Five cost nothing; after that each costs twice the time of the one before: 1 + 2 + 4 + 8 + 16 … s.
    expect(checked(all)).toBeGreaterThanOrEqual(5);
    expect(checked(all)).toBeLessThan(14);
    expect(new Set(all.map(([status]) => status))).toEqual(new Set([401, 429]));
  }
  const said = (all: [number, unknown][]) =>
    [...new Set(all.map(([status, detail]) => `${status} ${String(detail)}`))].sort();
  expect(said(known)).toEqual(said(unknown));
  // Not even the right one gets through meanwhile.
  const right = await signIn("nobody.of.ours@fern-anvil.example", "whatever it may be");
  expect(right.status).toBe(429);
  expect(Number(right.headers.get("retry-after"))).toBeGreaterThan(0);
  await later();
  expect((await signIn(OTTILIE.email, OTTILIE.password)).status).toBe(200);
});

test("an address that tries many accounts is slowed too", async () => {
  await later();
  const statuses: number[] = [];
  for (let i = 0; i < 30; i++)
    statuses.push((await signIn(`guess${i}@fern-anvil.example`, "a common password")).status);
  expect(statuses.slice(0, 20)).toEqual(new Array(20).fill(401));
  expect(statuses.slice(21).filter((status) => status === 429).length).toBeGreaterThan(5);
  await later();
});

test("a session that was set before signing in is not the one after it; a stolen cookie ends with the password", async () => {
  // Ports share cookies: the name tells installations on one host apart.
  const SESSION = `tin-${new URL(system.web).port}.session_token`;
  const planted = await signIn(OTTILIE.email, OTTILIE.password, { Cookie: `${SESSION}=planted.by.somebody` });
  expect(planted.cookie).toContain(`${SESSION}=`);
  expect(planted.cookie).not.toContain("planted.by.somebody");
  const flags = planted.headers.getSetCookie().find((one) => one.startsWith(SESSION))!;
  expect(flags).toMatch(/HttpOnly/i);
  expect(flags).toMatch(/SameSite=Lax/i);
  const stolen = (await signIn(OTTILIE.email, OTTILIE.password)).cookie;
  const get = (cookie: string) => asked(system.web, "GET", "/api/people", undefined, { Cookie: cookie });
  expect((await get(stolen)).status).toBe(200);
  // A cookie whose signature is another's is none.
  const [name, value] = stolen.split("=");
  expect((await get(`${name}=${value.slice(0, 20)}${"A".repeat(12)}${value.slice(32)}`)).status).toBe(401);
  const password = "nine geese in the orchard";
  const changed = await asked(
    system.web,
    "PUT",
    "/api/me/password",
    { current: OTTILIE.password, password },
    { Cookie: planted.cookie },
  );
  expect(changed.status).toBe(200);
  expect((await get(stolen)).status).toBe(401);
  expect((await get(planted.cookie)).status).toBe(401);
  expect((await get(changed.cookie)).status).toBe(200);
  owner = changed.cookie;
});

test("a key that was revoked, has ended, or is for something else sends and reads nothing, over HTTP or gRPC", async () => {
  const make = async (scopes: string[]) => {
    const request = { name: scopes.join(), scopes, environment: "production", days: 1 };
    const { body } = await asked(system.web, "POST", "/api/keys", request, { Cookie: owner });
    return { id: body.id as number, text: body.text as string };
  };
  const send = (key: string, environment = "production") =>
    Promise.all([...sentByHttp(key, environment), ...sentByGrpc(key, environment)]);
  const read = async (key: string) =>
    (await asked(system.web, "GET", "/api/overview", undefined, { Authorization: `Bearer ${key}` })).status;
  const all = (what: string) => new Array<string>(6).fill(what);
  const [sender, reader, ending] = [await make(["send"]), await make(["read"]), await make(["send", "read"])];
  await expect.poll(() => send(sender.text)).toEqual(all("taken"));
  expect(await send(sender.text, "staging")).toEqual(all("set aside: the key is for the environment production"));
  expect(await read(reader.text)).toBe(200);
  expect(await send(reader.text)).toEqual(all("refused"));
  expect(await read(sender.text)).toBe(403);
  await asked(system.web, "DELETE", `/api/keys/${sender.id}`, undefined, { Cookie: owner });
  await asked(system.web, "DELETE", `/api/keys/${reader.id}`, undefined, { Cookie: owner });
  const client = new pg.Client({ connectionString: system.cluster.url });
  await client.connect();
  await client.query("UPDATE access_key SET expires_at = $2 WHERE id = $1", [ending.id, Date.now() - 1000]);
  await client.end();
  await expect.poll(() => send(sender.text)).toEqual(all("refused"));
  await expect.poll(() => send(ending.text)).toEqual(all("refused"));
  expect(await read(reader.text)).toBe(401);
  expect(await read(ending.text)).toBe(401);
  expect(await read("tin_never_made")).toBe(401);
  expect(await send("tin_never_made")).toEqual(all("refused"));
});

/** A request of each signal with one item, from an environment. */
function oneOfEach(environment: string) {
  const attributes = [
    { key: "service.name", value: { stringValue: "gatehouse" } },
    { key: "deployment.environment.name", value: { stringValue: environment } },
  ];
  const time = `${Date.now()}000000`;
  const gauge = { name: "gate.open", gauge: { dataPoints: [{ timeUnixNano: time, asDouble: 1 }] } };
  const span = {
    traceId: "0af7651916cd43dd8448eb211c80319c",
    spanId: "b7ad6b7169203331",
    name: "open the gate",
    startTimeUnixNano: time,
    endTimeUnixNano: time,
  };
  const record = { timeUnixNano: time, body: { stringValue: "the gate opened" } };
  const resource = { attributes };
  return [
    {
      signal: "metrics",
      method: "metrics.v1.MetricsService",
      message: "ExportMetricsServiceRequest",
      content: { resourceMetrics: [{ resource, scopeMetrics: [{ metrics: [gauge] }] }] },
    },
    {
      signal: "traces",
      method: "trace.v1.TraceService",
      message: "ExportTraceServiceRequest",
      content: { resourceSpans: [{ resource, scopeSpans: [{ spans: [span] }] }] },
    },
    {
      signal: "logs",
      method: "logs.v1.LogsService",
      message: "ExportLogsServiceRequest",
      content: { resourceLogs: [{ resource, scopeLogs: [{ logRecords: [record] }] }] },
    },
  ] as const;
}

/** What became of a request, from what its answer says in words. */
const outcome = (said: string) => {
  const why = /the key is for the environment \w+/.exec(said)?.[0];
  return why === undefined ? "taken" : `set aside: ${why}`;
};

function sentByHttp(key: string, environment: string): Promise<string>[] {
  return oneOfEach(environment).map(async ({ signal, content }) => {
    const response = await fetch(`${system.intake}/v1/${signal}`, {
      method: "POST",
      headers: { "Content-Type": "application/json", Authorization: `Bearer ${key}` },
      body: JSON.stringify(content),
    });
    const said = await response.text();
    if (response.status === 401) return "refused";
    return response.status === 200 ? outcome(said) : `${response.status} ${said}`;
  });
}

function sentByGrpc(key: string, environment: string): Promise<string>[] {
  const same = (bytes: Buffer) => bytes;
  return oneOfEach(environment).map(async ({ method, message, content }) => {
    const client = new grpc.Client(`127.0.0.1:${system.grpc}`, grpc.credentials.createInsecure());
    const metadata = new grpc.Metadata();
    metadata.set("authorization", `Bearer ${key}`);
    const path = `/opentelemetry.proto.collector.${method}/Export`;
    const said = await new Promise<string>((resolve) =>
      client.makeUnaryRequest(
        path,
        same,
        same,
        Buffer.from(encodeMessage(message, content)),
        metadata,
        (error, answer) =>
          resolve(
            error ? (error.code === grpc.status.UNAUTHENTICATED ? "refused" : error.message) : outcome(String(answer)),
          ),
      ),
    );
    client.close();
    return said;
  });
}

test("accounts of the demonstration are to be chosen only where it runs, and only on this machine", async () => {
  expect((await asked(system.web, "GET", "/api/me")).body.demonstration).toBeNull();
  expect((await asked(system.web, "POST", "/api/demonstration", { email: OTTILIE.email })).status).toBe(404);
  await expect(startsLink(system, "demonstration")).rejects.toThrow("accounts of its own");

  const shown = await startAccessSystem("demonstration");
  let open: ChildProcess | null = null;
  try {
    const link = linkIn(await startsLink(shown, "demonstration"));
    const all = (await asked(shown.web, "GET", "/api/me")).body.demonstration as { email: string; role: string }[];
    expect(all.map(({ role }) => role)).toEqual(["owner", "editor", "viewer"]);
    for (const { email, role } of all) {
      const { status, cookie } = await asked(shown.web, "POST", "/api/demonstration", { email });
      expect(status).toBe(200);
      expect((await asked(shown.web, "GET", "/api/me", undefined, { Cookie: cookie })).body).toMatchObject({
        email,
        role,
      });
    }
    const first = await asked(shown.web, "POST", "/api/demonstration", { link });
    expect((await asked(shown.web, "GET", "/api/me", undefined, { Cookie: first.cookie })).body.role).toBe("owner");
    expect((await asked(shown.web, "POST", "/api/demonstration", { link })).status).toBe(410);
    // Others are invited as anywhere.
    const guest = { name: "Guest", email: "guest@fern-anvil.example", password: "an umbrella stand" };
    await invited(shown, first.cookie, "viewer", guest);
    expect((await asked(shown.web, "POST", "/api/demonstration", { email: guest.email })).status).toBe(404);

    // The same store, served to others than this machine.
    const port = await freePort();
    open = await startWeb(port, { ...shown.env, TIN_PUBLIC_URL: "https://tin.fern-anvil.example" });
    const web = `http://127.0.0.1:${port}`;
    expect((await asked(web, "GET", "/api/me")).body.demonstration).toBeNull();
    expect((await asked(web, "POST", "/api/demonstration", { email: all[0].email })).status).toBe(404);
  } finally {
    if (open) await killHard(open);
    await shown.end();
  }
});

test("attempts, links and sessions that ended long ago are forgotten, and those of today are not", async () => {
  const client = new pg.Client({ connectionString: system.cluster.url });
  await client.connect();
  const count = async (table: string) =>
    Number((await client.query<{ n: string }>(`SELECT count(*) AS n FROM ${table}`)).rows[0].n);
  await signIn("guess@fern-anvil.example", "a common password");
  const now = Date.now();
  const long = now - 31 * 86_400_000;
  const sessions = await count("sign_in");
  await client.query("INSERT INTO attempt (key, failures, last_at, until) VALUES ('long ago', 9, $1, $1)", [long]);
  await client.query(
    `INSERT INTO one_time_link (hash, kind, email, role, made_by, created_at, expires_at)
     VALUES ('\\x01', 'invitation', 'a', 'viewer', 'b', $1, $1), ('\\x02', 'invitation', 'c', 'viewer', 'd', $1, $2)`,
    [long, now],
  );
  await client.query(
    `INSERT INTO sign_in (id, token, user_id, expires_at, created_at, updated_at)
     SELECT 'long ago', 'long ago', id, to_timestamp($1::float8 / 1000), now(), now() FROM person LIMIT 1`,
    [long],
  );
  const pool = new pg.Pool({ connectionString: system.cluster.url });
  expect(await ENDED.pass(pool, now, () => false)).toMatchObject({ done: 3 });
  await pool.end();
  expect((await client.query("SELECT 1 FROM attempt WHERE key = 'long ago'")).rowCount).toBe(0);
  expect(await count("attempt")).toBeGreaterThan(0);
  expect((await client.query("SELECT email FROM one_time_link WHERE email IN ('a', 'c')")).rows).toEqual([
    { email: "c" },
  ]);
  expect(await count("sign_in")).toBe(sessions);
  await client.end();
});
