import { type ChildProcess, execFile, spawn } from "node:child_process";
import { createHash, createHmac } from "node:crypto";
import path from "node:path";
import { promisify } from "node:util";
import { fetchAsNobody, letIn } from "./asProgram";

/** Where the system under test is, and small tools to reach it. */

/** What a body is sent as. */
export const AS_JSON = { headers: { "Content-Type": "application/json" } };
export const AS_FILE = { headers: { "Content-Type": "application/yaml" } };

/** Asks for nothing that the server kept. */
export const FRESH = { headers: { "Cache-Control": "no-cache" } };

export const INTAKE = `http://127.0.0.1:${process.env.TIN_INTAKE_PORT}`;
export const WEB = `http://127.0.0.1:${process.env.TIN_WEB_PORT}`;

/** Runs the sending program to its end, in a process of its own. */
export async function sendWithSdk(release: string, encoding: "protobuf" | "json"): Promise<void> {
  await promisify(execFile)(process.execPath, [".build/sender.js", release, encoding], { env: process.env });
}

interface ReadingAnswer {
  unit: string;
  times: number[];
  series: {
    labels: Record<string, string | null>;
    values: (number | null)[];
    total: number | null;
    totalLow?: number | null;
    totalHigh?: number | null;
  }[];
  warnings: { code: string; message: string }[];
  resolution: string;
  resolutions: string[];
}

/** Asks the API a reading. */
export async function read(text: string, from: number, to: number, every = "", base = WEB): Promise<ReadingAnswer> {
  const query = new URLSearchParams({ text, from: String(from), to: String(to), ...(every ? { every } : {}) });
  const response = await fetch(`${base}/api/reading?${query}`);
  if (!response.ok) throw new Error(await response.text());
  return (await response.json()) as ReadingAnswer;
}

/** Whether a service was ever heard. */
export async function isKnown(service: string): Promise<boolean> {
  const { services } = (await (await fetch(`${WEB}/api/overview`)).json()) as { services: { service: string }[] };
  return services.some((one) => one.service === service);
}

/** One number point of a delta counter as OTLP/JSON. */
export function countOf(
  service: string,
  name: string,
  value: number,
  ms: number,
  attributes: Record<string, string> = {},
): object {
  const list = (all: Record<string, string>) =>
    Object.entries(all).map(([key, stringValue]) => ({ key, value: { stringValue } }));
  const nanos = `${ms}000000`;
  return {
    resourceMetrics: [
      {
        resource: { attributes: list({ "service.name": service, "service.version": "1" }) },
        scopeMetrics: [
          {
            metrics: [
              {
                name,
                unit: "{item}",
                sum: {
                  aggregationTemporality: 1,
                  isMonotonic: true,
                  dataPoints: [
                    {
                      asInt: String(value),
                      timeUnixNano: nanos,
                      startTimeUnixNano: `${ms - 1}000000`,
                      attributes: list(attributes),
                    },
                  ],
                },
              },
            ],
          },
        ],
      },
    ],
  };
}

/** Sends OTLP/JSON, written already or not. @returns the status; 0 where nobody answered */
export async function post(body: object | string, base = INTAKE): Promise<number> {
  try {
    const response = await fetch(`${base}/v1/metrics`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: typeof body === "string" ? body : JSON.stringify(body),
    });
    await response.arrayBuffer();
    return response.status;
  } catch {
    return 0;
  }
}

const ports = path.resolve("scripts/lib/freePort.mjs");

/** A port that is free now, and that was given to nobody else here. */
export async function freePort(): Promise<number> {
  const tools = (await import(ports)) as { freePort: () => Promise<number> };
  return tools.freePort();
}

/** Ends a process with the tests, also where a test failed before it could. */
export function tied(child: ChildProcess): ChildProcess {
  const end = () => child.kill("SIGKILL");
  process.once("exit", end);
  child.once("exit", () => process.off("exit", end));
  return child;
}

/** Starts another intake on the same database and waits until it answers. */
export async function startIntake(port: number, env: Record<string, string> = {}): Promise<ChildProcess> {
  const child = tied(
    spawn(process.execPath, [".build/intake.js"], {
      env: { ...process.env, TIN_INTAKE_GRPC_PORT: "0", ...env, TIN_INTAKE_PORT: String(port), LOG_LEVEL: "error" },
      stdio: "ignore",
    }),
  );
  await answering(`http://127.0.0.1:${port}/health`);
  return child;
}

/** Starts the stand-in for a second backend, with a file that outlives it, and waits until it answers. */
export async function startBackend(port: number, file: string): Promise<ChildProcess> {
  const child = tied(spawn(process.execPath, [".build/backend.js", String(port), file], { stdio: "ignore" }));
  await answering(`http://127.0.0.1:${port}/counts`);
  return child;
}

/** A pipeline as the API takes it; what is left out is as usual. */
export type PipelineParts = Partial<Record<"metrics" | "traces" | "logs" | "exporters", object[]>> & {
  receivers?: object;
};

/** Publishes a pipeline in the place of what is live, and waits until the intake runs it. */
export async function publish(config: PipelineParts, note: string): Promise<number> {
  const { live } = (await (await fetch(`${WEB}/api/pipeline`)).json()) as { live: { id: number } };
  const response = await fetch(`${WEB}/api/pipeline`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ config, note, based: live.id }),
  });
  if (response.status !== 201) throw new Error(await response.text());
  const { id } = (await response.json()) as { id: number };
  for (let tries = 0; (await runningAt(INTAKE)) !== id; tries++) {
    if (tries > 200) throw new Error(`version ${id} does not run`);
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  return id;
}

/** The version that an intake runs. */
export async function runningAt(intake: string): Promise<number> {
  // What one process of an installation shows another: HMAC-SHA-256 under the hash of its key.
  const key = createHash("sha256").update(process.env.TIN_SECRET_KEY!).digest();
  const shown = createHmac("sha256", key).update("between processes").digest("base64url");
  const answer = await fetch(`${intake}/running`, { headers: { "X-Tin-Key": shown } });
  return ((await answer.json()) as { pipeline: number }).pipeline;
}

/** Starts another web process on the same database and waits until it answers. */
export async function startWeb(port: number, env: Record<string, string> = {}): Promise<ChildProcess> {
  const child = tied(
    spawn(process.execPath, [".build/web.js"], {
      env: {
        LOG_LEVEL: "error",
        TIN_SECRET_KEY: "of tests",
        ...process.env,
        ...env,
        NODE_ENV: "production",
        TIN_WEB_PORT: String(port),
      },
      stdio: "ignore",
    }),
  );
  await answering(`http://127.0.0.1:${port}/api/health`);
  await letIn(env.DATABASE_URL);
  return child;
}

async function answering(address: string): Promise<void> {
  for (let tries = 0; tries < 6000; tries++) {
    const up = await fetchAsNobody(address).then(
      ({ ok }) => ok,
      () => false,
    );
    if (up) return;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error(`${address} does not answer`);
}

/** Ends a process at once, without a chance to tidy up, and waits until it is gone. */
export function killHard(child: ChildProcess): Promise<void> {
  return new Promise((resolve) => {
    child.once("exit", () => resolve());
    child.kill("SIGKILL");
  });
}
