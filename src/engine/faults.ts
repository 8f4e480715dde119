import { createHash, randomBytes } from "node:crypto";
import pino from "pino";
import { setting } from "@/core/settings/environment";
import { MINUTE } from "@/core/window/lengths";
import { withSourcePlaces } from "./sourcePlaces";

/** What is not the asker's mistake: told apart, and written down once. */

/** Somebody has to wait: the store is away, or too much is asked at once. */
export class AwayError extends Error {
  override name = "AwayError";
}

export class BusyError extends Error {
  override name = "BusyError";
}

const SOCKET = new Set(["ECONNREFUSED", "ECONNRESET", "EPIPE", "ETIMEDOUT", "ENOTFOUND", "ENOENT"]);
/** Words of the driver for connections that broke or did not come about. */
const BROKEN =
  /connection terminated|timeout exceeded when trying to connect|client has encountered a connection error|connection ended/i;

/** Whether a failure says that the database is not there: class 08, shutdowns (57P), too many connections (53300), sockets. */
export function isAway(error: unknown): boolean {
  if (error instanceof AwayError) return true;
  const { code, message } = error as { code?: unknown; message?: unknown };
  const text = String(code ?? "");
  if (SOCKET.has(text) || /^(08|57P|53)/.test(text)) return true;
  if (BROKEN.test(String(message ?? ""))) return true;
  // What asked the database may tell of its own failure first.
  const { cause } = error as { cause?: unknown };
  return cause instanceof Error && isAway(cause);
}

const log = pino({ name: "web", level: setting("LOG_LEVEL") });

/** How long a stack that was written down is not written again, ms. */
const QUIET = MINUTE;
const MAX_KNOWN = 1000;
const known = new Map<string, { id: string; at: number }>();

/**
 * Writes a fault of ours down: a line with its stack the first time in a minute.
 *
 * @param about what helps to find it: route, reading, window
 * @returns a short id that stands in the log and in the answer
 */
export function noteFault(error: unknown, about: Record<string, unknown>): string {
  const stack = error instanceof Error ? (error.stack ?? error.message) : String(error);
  const key = createHash("sha256").update(stack).digest("hex");
  const now = Date.now();
  const before = known.get(key);
  if (before && now - before.at < QUIET) return before.id;
  const id = before?.id ?? randomBytes(4).toString("hex");
  if (known.size >= MAX_KNOWN) known.clear();
  known.set(key, { id, at: now });
  log.error(
    { fault: id, ...about, stack: withSourcePlaces(stack) },
    error instanceof Error ? error.message : String(error),
  );
  return id;
}
