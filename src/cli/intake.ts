import { setTimeout as sleep } from "node:timers/promises";
import { gzipSync } from "node:zlib";
import type { Option as CommanderOption } from "commander";
import { Option } from "commander";
import type { Attributes } from "@/core/metric/model";
import { asBearer, type KeyOptions, keyOf, keyOption } from "./key";
import { UserError } from "./userError";

/** The way into the intake: OTLP/HTTP with JSON, as any service would send. */

const TRIES = 5;
const RETRIED = new Set([429, 502, 503, 504]);

/** What came of a request. */
export interface Receipt {
  rejected: number;
  /** Why, in the intake's words; "" where there is nothing to say. */
  message: string;
}

/** A request that was refused as a whole for what it is. */
export class Refused extends Error {
  override name = "Refused";
}

function waitFor(response: Response | null, tried: number): number {
  const asked = Number(response?.headers.get("retry-after"));
  return Number.isFinite(asked) && asked > 0 ? Math.min(asked, 30) * 1000 : 250 * 2 ** tried;
}

export class Intake {
  /**
   * @param base its address, such as http://127.0.0.1:4318
   * @param key a key to send with; "" for none
   */
  constructor(
    readonly base: string,
    private readonly key: string,
  ) {}

  /**
   * Sends a metrics request.
   *
   * @throws Refused where the intake does not take it as it is; Told where it cannot be reached or asks for a key
   */
  async send(request: object): Promise<Receipt> {
    const body = gzipSync(JSON.stringify(request), { level: 1 });
    const headers = {
      "Content-Type": "application/json",
      "Content-Encoding": "gzip",
      ...asBearer(this.key),
    };
    for (let tried = 0; ; tried++) {
      const response = await fetch(`${this.base}/v1/metrics`, { method: "POST", headers, body }).catch(
        (error: Error) => error,
      );
      const last = tried >= TRIES - 1;
      if (response instanceof Error) {
        if (last)
          throw new UserError(`${this.base} cannot be reached (${reasonOf(response)}); is Tin Ladder running there?`);
      } else if (response.ok) return receiptOf(await response.json());
      else if (response.status === 401) throw new UserError(`${await messageOf(response)} (TIN_KEY, or --key-file)`);
      else if (!RETRIED.has(response.status)) throw new Refused(await messageOf(response));
      else if (last) throw new UserError(`${this.base} answers ${response.status}: ${await messageOf(response)}`);
      await sleep(waitFor(response instanceof Error ? null : response, tried));
    }
  }
}

/** Why a request did not get through, as short as it is known. */
export function reasonOf(error: Error): string {
  const cause = error.cause as { code?: string; message?: string } | undefined;
  return cause?.code ?? cause?.message ?? error.message;
}

/** What a page of HTML means that comes instead of an answer of ours. */
export const NOT_OURS = "a page of HTML: something else than Tin Ladder listens there";

async function messageOf(response: Response): Promise<string> {
  const text = await response.text();
  if (/^\s*</.test(text)) return NOT_OURS;
  try {
    const { message } = JSON.parse(text) as { message?: string };
    return message ?? text;
  } catch {
    return text.slice(0, 300);
  }
}

function receiptOf(answer: unknown): Receipt {
  const { partialSuccess } = answer as {
    partialSuccess?: { rejectedDataPoints?: string | number; errorMessage?: string };
  };
  return { rejected: Number(partialSuccess?.rejectedDataPoints ?? 0), message: partialSuccess?.errorMessage ?? "" };
}

/** Where to, and as whom: what `send` and `import` share. */
export interface SenderOptions extends KeyOptions {
  to: string;
  service: string;
  release?: string;
  environment?: string;
}

export function senderOptions(): CommanderOption[] {
  return [
    new Option("--to <address>", "the intake").env("OTEL_EXPORTER_OTLP_ENDPOINT").default("http://127.0.0.1:4318"),
    keyOption("send"),
    new Option("--service <name>", "who sends: service.name").env("OTEL_SERVICE_NAME").default("by-hand"),
    new Option("--release <version>", "its release: service.version"),
    new Option("--environment <name>", "where it runs: deployment.environment.name"),
  ];
}

export function intakeOf(options: SenderOptions): Intake {
  const { to } = options;
  if (!/^https?:\/\//.test(to)) throw new UserError(`--to ${to}: an address such as http://127.0.0.1:4318 is expected`);
  return new Intake(to.replace(/\/+$/, ""), keyOf(options));
}

export function resourceOf({ service, release, environment }: SenderOptions): Attributes {
  return {
    "service.name": service,
    ...(release === undefined ? {} : { "service.version": release }),
    ...(environment === undefined ? {} : { "deployment.environment.name": environment }),
  };
}
