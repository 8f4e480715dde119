import type { IncomingMessage } from "node:http";
import { promisify } from "node:util";
import zlib from "node:zlib";
import { LIMITS } from "@/core/otlp/limits";
import { type BytesInFlight, FullError } from "./budget";

/** A request that is answered with a status and a reason. */
export class RequestError extends Error {
  override name = "RequestError";
  constructor(
    readonly status: number,
    message: string,
    /** google.rpc.Code for the body. */
    readonly code = 3,
  ) {
    super(message);
  }
}

const gunzip = promisify<Buffer, zlib.ZlibOptions, Buffer>(zlib.gunzip);
const inflate = promisify<Buffer, zlib.ZlibOptions, Buffer>(zlib.inflate);

function tooLarge(): RequestError {
  return new RequestError(413, `the body is larger than ${LIMITS.body / 1024 / 1024} MiB; send smaller batches`, 8);
}

/** Bodies that are inflated at a time: while it is, one may come to the most that a body may be. */
const INFLATING = 4;
let inflating = 0;
const waiting: (() => void)[] = [];

async function oneOfFew<T>(work: () => Promise<T>): Promise<T> {
  if (inflating >= INFLATING) await new Promise<void>((resolve) => waiting.push(resolve));
  else inflating++;
  try {
    return await work();
  } finally {
    const next = waiting.shift();
    if (next) next();
    else inflating--;
  }
}

async function collect(request: IncomingMessage, inFlight: BytesInFlight): Promise<Buffer> {
  if (Number(request.headers["content-length"] ?? 0) > LIMITS.body) throw tooLarge();
  const chunks: Buffer[] = [];
  let size = 0;
  // Left early, the connection stays: the answer has to get through.
  for await (const chunk of request.iterator({ destroyOnReturn: false })) {
    size += (chunk as Buffer).length;
    if (size > LIMITS.body) throw tooLarge();
    inFlight.take((chunk as Buffer).length);
    chunks.push(chunk as Buffer);
  }
  return Buffer.concat(chunks);
}

/** The body of a request, inflated. @throws RequestError 400, 413 or 415; FullError where too much is in work */
export async function readBody(request: IncomingMessage, inFlight: BytesInFlight): Promise<Buffer> {
  const encoding = (request.headers["content-encoding"] ?? "identity").trim().toLowerCase();
  const unpack = encoding === "gzip" ? gunzip : encoding === "deflate" ? inflate : null;
  if (!unpack && encoding !== "identity" && encoding !== "")
    throw new RequestError(415, `content encoding ${encoding} is not taken; use gzip, deflate or none`);
  const raw = await collect(request, inFlight);
  if (!unpack) return raw;
  try {
    return await oneOfFew(async () => {
      const body = await unpack(raw, { maxOutputLength: LIMITS.body });
      inFlight.take(body.length);
      return body;
    });
  } catch (error) {
    if (error instanceof FullError) throw error;
    if ((error as NodeJS.ErrnoException).code === "ERR_BUFFER_TOO_LARGE") throw tooLarge();
    throw new RequestError(400, `the body is not valid ${encoding}: ${(error as Error).message}`);
  }
}
