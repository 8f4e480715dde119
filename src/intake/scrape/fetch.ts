import http from "node:http";
import https from "node:https";
import { type BlockList, isIP } from "node:net";
import { promisify } from "node:util";
import zlib from "node:zlib";
import type { TrialStep } from "@/core/api/targets";
import type { Dialect } from "@/core/openmetrics/model";
import { ACCEPT, dialectOf } from "@/core/openmetrics/read";
import { LIMITS } from "@/core/otlp/limits";
import { connectionFailure, ScrapeError } from "@/core/scrape/failure";
import { pinned, resolveAllowed } from "../address";

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

interface Answer {
  status: number;
  headers: http.IncomingHttpHeaders;
  body: Buffer;
}

function request(question: Question, address: string, signal: AbortSignal, connected: () => void): Promise<Answer> {
  const url = new URL(question.url);
  return new Promise((resolve, reject) => {
    const header = authorization(question);
    const options: https.RequestOptions = {
      method: "GET",
      agent: false,
      signal,
      headers: {
        Accept: ACCEPT,
        "Accept-Encoding": "gzip",
        "User-Agent": "tin-ladder",
        ...(header ? { Authorization: header } : {}),
      },
      lookup: pinned(address),
    };
    const ask = (url.protocol === "https:" ? https : http).request(url, options, (response) => {
      const chunks: Buffer[] = [];
      let size = 0;
      response.on("data", (chunk: Buffer) => {
        size += chunk.length;
        if (size > LIMITS.body)
          ask.destroy(new ScrapeError("too-large", `more than ${LIMITS.body / 1024 / 1024} MiB came`));
        else chunks.push(chunk);
      });
      response.on("end", () =>
        resolve({ status: response.statusCode ?? 0, headers: response.headers, body: Buffer.concat(chunks) }),
      );
      response.on("error", reject);
    });
    ask.on("socket", (socket) => {
      socket.once(url.protocol === "https:" ? "secureConnect" : "connect", connected);
    });
    ask.on("error", reject);
    ask.end();
  });
}

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
  const address = await resolveAllowed(url.hostname, allowed);
  step(
    "resolve",
    isIP(url.hostname.replace(/^\[|\]$/g, "")) ? `${address} is an address` : `${url.hostname} is ${address}`,
  );
  const signal = AbortSignal.timeout(question.timeout);
  let answer: Answer;
  let connected = false;
  try {
    answer = await request(question, address, signal, () => {
      connected = true;
      step("connect", `connected to port ${url.port || (url.protocol === "https:" ? 443 : 80)}`);
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
  { status, headers, body }: Answer,
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
    throw new ScrapeError(
      "status",
      `${status}: it sends us on to ${headers.location ?? "another place"}; use that address`,
    );
  if (status !== 200) throw new ScrapeError("status", `${status} ${http.STATUS_CODES[status] ?? ""}`.trim());
  let plain = body;
  if ((headers["content-encoding"] ?? "") === "gzip") {
    try {
      plain = await gunzip(body, { maxOutputLength: LIMITS.body });
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === "ERR_BUFFER_TOO_LARGE")
        throw new ScrapeError("too-large", `more than ${LIMITS.body / 1024 / 1024} MiB came`);
      throw new ScrapeError("content-type", `it says gzip, which it is not: ${(error as Error).message}`);
    }
  }
  const text = plain.toString("utf8");
  if (/^\s*<(!doctype|html|\?xml)/i.test(text) || type.toLowerCase().startsWith("text/html"))
    throw new ScrapeError("html", `${type || "a text"} that begins like a page for people`);
  // Some say no type at all; their text then has to speak for itself.
  const dialect = type === "" ? (text.trimEnd().endsWith("# EOF") ? "openmetrics" : "plain") : dialectOf(type);
  if (!dialect) throw new ScrapeError("content-type", `it says it is ${type}`);
  step(
    "fetch",
    `${plain.length.toLocaleString("en-GB")} bytes of ${dialect === "plain" ? "plain text (0.0.4)" : "OpenMetrics"}`,
  );
  return { text, dialect };
}
