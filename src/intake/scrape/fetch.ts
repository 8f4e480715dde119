import http from "node:http";
import { type BlockList, isIP } from "node:net";
import { promisify } from "node:util";
import zlib from "node:zlib";
import type { TrialStep } from "@/core/api/targets";
import type { Dialect } from "@/core/openmetrics/model";
import { ACCEPT, dialectOf } from "@/core/openmetrics/read";
import { LIMITS } from "@/core/otlp/limits";
import { connectionFailure, ScrapeError } from "@/core/scrape/failure";
import { type OutgoingAnswer, send } from "../outgoing";

/** Fetches what a target exposes, step by step, so that each step can say what went wrong. */

/** What a target is asked with. */
export interface Question {
  url: string;
  timeout: number;
  auth: "none" | "bearer" | "basic";
  username: string;
  secret: string;
}

export interface Exposition {
  text: string;
  dialect: Dialect;
}

const gunzip = promisify<Buffer, zlib.ZlibOptions, Buffer>(zlib.gunzip);

function authorization({ auth, username, secret }: Question): string | undefined {
  if (auth === "bearer") return `Bearer ${secret}`;
  if (auth === "basic") return `Basic ${Buffer.from(`${username}:${secret}`).toString("base64")}`;
  return undefined;
}

const tooLarge = () => new ScrapeError("too-large", `more than ${LIMITS.body / 1024 / 1024} MiB came`);

/**
 * Asks a target.
 *
 * @param step told of each step that went well
 * @throws ScrapeError
 */
export async function fetchExposition(
  question: Question,
  allowed: BlockList,
  step: (what: TrialStep["what"], said: string) => void = () => {},
): Promise<Exposition> {
  if (!URL.canParse(question.url)) throw new ScrapeError("address", `"${question.url}" is no address`);
  const url = new URL(question.url);
  const signal = AbortSignal.timeout(question.timeout);
  const header = authorization(question);
  const headers = { Accept: ACCEPT, "Accept-Encoding": "gzip", ...(header ? { Authorization: header } : {}) };
  let answer: OutgoingAnswer;
  let connected = false;
  try {
    answer = await send({ url, headers, body: null, signal, most: LIMITS.body, tooLarge }, allowed, {
      resolved: (address) => {
        const isAddress = isIP(url.hostname.replace(/^\[|\]$/g, ""));
        step("resolve", isAddress ? `${address} is an address` : `${url.hostname} is ${address}`);
      },
      connected: () => {
        connected = true;
        step("connect", `connected to port ${url.port || (url.protocol === "https:" ? 443 : 80)}`);
      },
    });
  } catch (error) {
    if (error instanceof ScrapeError) throw error;
    if (signal.aborted) {
      const where = connected ? "connected, but no full answer" : "not connected";
      throw new ScrapeError("timeout", `${where} after ${question.timeout / 1000} s`);
    }
    throw connectionFailure(error as NodeJS.ErrnoException);
  }
  return understand(answer, question, step);
}

async function understand(
  { status, headers, body }: OutgoingAnswer,
  { auth }: Question,
  step: (what: TrialStep["what"], said: string) => void,
): Promise<Exposition> {
  const type = headers["content-type"] ?? "";
  if (status === 401 || status === 403)
    throw new ScrapeError(
      "unauthorized",
      `${status}: ${auth === "none" ? "it was asked without a token" : `what was given as ${auth} is not accepted`}`,
    );
  if (status === 404 || status === 410) throw new ScrapeError("not-found", `${status} for this path`);
  if (status >= 300 && status < 400)
    throw new ScrapeError("status", `${status}: it redirects to another address; enter that one`);
  if (status !== 200) throw new ScrapeError("status", `${status} ${http.STATUS_CODES[status] ?? ""}`.trim());
  let plain = body;
  if ((headers["content-encoding"] ?? "") === "gzip") {
    try {
      plain = await gunzip(body, { maxOutputLength: LIMITS.body });
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === "ERR_BUFFER_TOO_LARGE") throw tooLarge();
      throw new ScrapeError("content-type", `it says gzip, which it is not: ${(error as Error).message}`);
    }
  }
  const text = plain.toString("utf8");
  if (/^\s*<(!doctype|html|\?xml)/i.test(text) || type.toLowerCase().startsWith("text/html"))
    throw new ScrapeError("html", "a text that begins like a page for people");
  // Some say no type at all; their text then has to speak for itself.
  const dialect = type === "" ? (text.trimEnd().endsWith("# EOF") ? "openmetrics" : "plain") : dialectOf(type);
  if (!dialect) throw new ScrapeError("content-type", "its Content-Type is no format of metrics");
  step(
    "fetch",
    `${plain.length.toLocaleString("en-GB")} bytes of ${dialect === "plain" ? "plain text (0.0.4)" : "OpenMetrics"}`,
  );
  return { text, dialect };
}
