import http from "node:http";
import https from "node:https";
import type { BlockList } from "node:net";
import { pinned, resolveAllowed } from "./address";

/**
 * Requests that we send by ourselves. A host's name is looked up once, what it stands for is checked, and the checked address
 * is the one connected to. Where the other side sends us on is an answer and is not followed.
 */

export interface OutgoingRequest {
  url: URL;
  headers: Readonly<Record<string, string>>;
  /** What is posted; null for a request that only gets. */
  body: Buffer | null;
  signal: AbortSignal;
  /** Most bytes of an answer. */
  most: number;
  /** What is thrown where more come; null: the rest is let go. */
  tooLarge: (() => Error) | null;
}

export interface OutgoingAnswer {
  status: number;
  headers: http.IncomingHttpHeaders;
  body: Buffer;
}

/** What is told of a request on its way. */
export interface OnItsWay {
  resolved?: (address: string) => void;
  connected?: () => void;
}

/**
 * Sends a request.
 *
 * @throws ScrapeError where the address may not be asked, or its name is not known; else what the connection throws
 */
export async function send(request: OutgoingRequest, allowed: BlockList, tell: OnItsWay = {}): Promise<OutgoingAnswer> {
  const { url, headers, body, signal } = request;
  const address = await resolveAllowed(url.hostname, allowed);
  tell.resolved?.(address);
  return new Promise((resolve, reject) => {
    const options: https.RequestOptions = {
      method: body === null ? "GET" : "POST",
      agent: false,
      signal,
      headers: {
        "User-Agent": "tin-ladder",
        ...headers,
        ...(body === null ? {} : { "Content-Length": String(body.length) }),
      },
      lookup: pinned(address),
    };
    const secure = url.protocol === "https:";
    const ask = (secure ? https : http).request(url, options, (response) =>
      collect(response, request, ask).then(resolve, reject),
    );
    ask.on("socket", (socket) => {
      socket.once(secure ? "secureConnect" : "connect", () => tell.connected?.());
    });
    ask.on("error", reject);
    ask.end(body ?? undefined);
  });
}

function collect(
  response: http.IncomingMessage,
  { most, tooLarge }: OutgoingRequest,
  ask: http.ClientRequest,
): Promise<OutgoingAnswer> {
  return new Promise((resolve, reject) => {
    const chunks: Buffer[] = [];
    let size = 0;
    response.on("data", (chunk: Buffer) => {
      size += chunk.length;
      if (size <= most) chunks.push(chunk);
      else if (tooLarge) ask.destroy(tooLarge());
    });
    response.on("end", () =>
      resolve({ status: response.statusCode ?? 0, headers: response.headers, body: Buffer.concat(chunks) }),
    );
    response.on("error", reject);
  });
}
