import { fork } from "node:child_process";
import http from "node:http";
import path from "node:path";
import { setting } from "@/core/settings/environment";
import { ANNOUNCED, ESTIMATOR_SETTING } from "./announcements";
import { callKinds, callsPerSecond, DEPOTS, PLANS, type ReleasePlan } from "./model";

/** Starts the programs of Fern & Anvil and calls them as its members would. */

const agent = new http.Agent({ keepAlive: true, maxSockets: 64 });
/** Calls are placed in small batches of this length, ms. */
const TICK = 100;
const PAGES = `http://127.0.0.1:${setting("TIN_WEB_PORT")}`;
const AS_JSON = { "Content-Type": "application/json" };

/** The session of the demonstration's owner, as the sign-in page offers it. */
let session = "";

async function signIn(): Promise<void> {
  const body = JSON.stringify({ email: "ottilie@fern-anvil.example" });
  const answer = await fetch(`${PAGES}/api/demonstration`, { method: "POST", headers: AS_JSON, body });
  session = answer.headers
    .getSetCookie()
    .map((one) => one.split(";")[0])
    .join("; ");
}

/** What the team keeps. */
async function kept<T>(path: string): Promise<T> {
  return (await (await fetch(PAGES + path, { headers: { Cookie: session } })).json()) as T;
}

/** Saves something as its owner would. */
async function save(path: string, body: object, method = "POST"): Promise<void> {
  await fetch(PAGES + path, { method, headers: { ...AS_JSON, Cookie: session }, body: JSON.stringify(body) });
}

interface Running {
  plan: ReleasePlan;
  ports: number[];
}

function start(plan: ReleasePlan): Promise<Running> {
  const running: Running = { plan, ports: [] };
  return new Promise((resolve) => {
    // Started again, it listens elsewhere.
    startChild("service", [plan.service, plan.release], (said) => {
      running.ports = (said as { ports: number[] }).ports;
      resolve(running);
    });
  });
}

function call({ plan, ports }: Running): void {
  const kinds = callKinds(plan.service, plan.release);
  let pick = Math.random() * kinds.reduce((sum, { weight }) => sum + weight, 0);
  const kind = kinds.find(({ weight }) => {
    pick -= weight;
    return pick <= 0;
  })!;
  const query = new URLSearchParams(kind.attributes);
  const request = http.request({
    host: "127.0.0.1",
    port: ports[Math.floor(Math.random() * ports.length)],
    method: kind.method,
    path: `${kind.path}?${query}`,
    agent,
  });
  request.on("response", (response) => response.resume());
  request.on("error", () => {});
  request.end();
}

/** The lockers' gateways, by firmware: they have no SDK, so Tin Ladder comes and reads their pages. */
const GATEWAYS = [
  { firmware: "3.1", port: setting("TIN_DEMO_LOCKERS_PORT"), every: 10_000 },
  { firmware: "3.2", port: setting("TIN_DEMO_LOCKERS_PORT") + 1, every: 30_000 },
];

async function startGateway({ firmware, port, every }: (typeof GATEWAYS)[number]): Promise<void> {
  await new Promise<unknown>((resolve) => startChild("lockers", [firmware, String(port)], resolve));
  const url = `http://localhost:${port}/metrics`;
  const known = await kept<{ targets: { url: string }[] }>("/api/targets");
  if (known.targets.some((one) => one.url === url)) return;
  await save("/api/targets", { name: "lockers", url, every, timeout: 5000, auth: "none" });
}

/** The stand-in for a second backend, to which everything goes for some weeks, to compare. */
const BACKEND_PORT = setting("TIN_DEMO_BACKEND_PORT");

/** What each program of the demonstration may hold, MiB. */
const MAX_HEAP_MB = 160;
/** A program that ended is started again after so long, ms; the longer, the sooner it ended. */
const AGAIN_AFTER = [1000, 5000, 30_000];
/** Having run for so long, it counts as one that runs, ms. */
const RUNS = 60_000;

/**
 * Starts a program as a child of this one; it goes when this one goes, and is started again where it ends by itself.
 *
 * @param heard told what it says, each time it was started
 */
function startChild(
  name: string,
  args: readonly string[] = [],
  heard: (said: unknown) => void = () => {},
  failures = 0,
): void {
  const began = Date.now();
  const child = fork(path.join(import.meta.dirname, `${name}.js`), [...args], {
    execArgv: [`--max-old-space-size=${MAX_HEAP_MB}`],
  });
  const end = () => child.kill("SIGTERM");
  process.once("exit", end);
  child.on("message", heard);
  child.once("exit", (code, signal) => {
    process.off("exit", end);
    const again = Date.now() - began > RUNS ? 0 : failures;
    const wait = AGAIN_AFTER[Math.min(again, AGAIN_AFTER.length - 1)];
    process.stderr.write(`${name} ended (${signal ?? code}); it is started again in ${wait / 1000} s\n`);
    setTimeout(() => startChild(name, args, heard, again + 1), wait);
  });
}

/** The pipeline that the platform team began with. */
const PIPELINE = {
  traces: [
    { id: "addresses", type: "remove", attributes: ["url.full"] },
    { id: "calls", type: "spans", to: "call", attributes: ["span.name", "span.kind"] },
    { id: "quiet", type: "tail", errors: true, slower: 1, share: 0.1 },
  ],
  logs: [
    { id: "fields", type: "parse" },
    { id: "members", type: "redact", attributes: ["log.body", "member"], pattern: "[a-z0-9]+@[a-z.-]+" },
    { id: "lines", type: "records", to: "courier.lines", attributes: ["level", "status"] },
    { id: "debug", type: "drop", where: 'level is "debug"' },
  ],
  exporters: [
    { id: "store", type: "store" },
    {
      id: "second-backend",
      type: "otlp",
      signals: ["metrics"],
      url: `http://localhost:${BACKEND_PORT}`,
      copy: `http://localhost:${BACKEND_PORT}/copy`,
    },
  ],
};

async function pipe(): Promise<void> {
  const { live } = await kept<{ live: { id: number } }>("/api/pipeline");
  if (live.id > 0) return;
  const note = "a second backend for some weeks; debug lines go";
  await save("/api/pipeline", { config: PIPELINE, note, based: 0 });
}

/** What the teams agreed on; firmware 3.2 and release 5.3.0 do not keep to it. */
const CONTRACTS = [
  {
    name: "loan.reserved",
    kind: "counter",
    unit: "{loan}",
    description: "Loans that members reserved",
    service: "loans",
    instances: 5,
    attributes: [
      { name: "depot", values: DEPOTS.map(({ name }) => name) },
      { name: "tool.kind", values: ["hand", "garden", "powered"] },
      { name: "member.plan", values: ["standard", "family", "workshop"] },
    ],
  },
  {
    name: "locker_open_duration_seconds",
    kind: "histogram",
    unit: "s",
    description: "From the request until the door is open",
    service: "lockers",
    instances: 2,
    attributes: [
      { name: "depot", values: DEPOTS.map(({ name }) => name) },
      { name: "tool_kind", values: ["hand", "garden", "powered"] },
    ],
  },
];

async function agree(): Promise<void> {
  const known = await kept<{ contracts: unknown[] }>("/api/contracts");
  if (known.contracts.length > 0) return;
  for (const body of CONTRACTS) await save("/api/contracts", { body, note: "agreed at the tool bench", based: 0 });
}

/** Announces the releases, each at the moment from which on it is heard, and keeps how the estimator's are looked at. */
async function announce(): Promise<void> {
  for (const announced of ANNOUNCED) {
    const { service, environment, version } = announced;
    const query = new URLSearchParams({ service, environment });
    const { releases } = await kept<{ releases: { release: string; firstAt: number }[] }>(`/api/releases?${query}`);
    const heard = releases.find(({ release }) => release === version);
    await save("/api/releases", { ...announced, ...(heard ? { at: heard.firstAt } : {}) });
  }
  const { service, environment } = ESTIMATOR_SETTING;
  const { changedAt } = await kept<{ changedAt: number | null }>(
    `/api/ladder/setting?${new URLSearchParams({ service, environment })}`,
  );
  if (changedAt === null) await save("/api/ladder/setting", ESTIMATOR_SETTING, "PUT");
}

/** A longer pause in what a service reports was one, ms; in a shorter one its programs only began anew. */
const MAX_PAUSE = 2 * 60_000;

/** How long it is ago that each service was last heard, ms: its members wait since. */
async function pauses(): Promise<Map<string, number>> {
  const { services } = await kept<{ services: { service: string; lastAt: number }[] }>("/api/overview");
  const ago = services.map(({ service, lastAt }) => [service, Date.now() - lastAt] as const);
  return new Map(ago.filter(([, pause]) => pause <= MAX_PAUSE));
}

process.setMaxListeners(50);
await signIn();
startChild("backend", [String(BACKEND_PORT), path.join(import.meta.dirname, "..", ".data", "backend.jsonl")]);
startChild("courier");
await agree();
await announce();
await pipe();
await Promise.all(GATEWAYS.map(startGateway));
const running = await Promise.all(PLANS.filter(({ ended }) => ended === null).map(start));
const waited = await pauses();
const began = Date.now();
let owed = running.map(() => 0);
setInterval(() => {
  const now = Date.now();
  owed = running.map((one, i) => {
    const { service } = one.plan;
    const twice = now - began < (waited.get(service) ?? 0);
    const due = owed[i] + (callsPerSecond(service, now) * one.plan.share(0) * (twice ? 2 : 1) * TICK) / 1000;
    for (let left = Math.floor(due); left > 0; left--) call(one);
    return due - Math.floor(due);
  });
}, TICK);

process.on("SIGTERM", () => process.exit(0));
process.on("SIGINT", () => process.exit(0));
