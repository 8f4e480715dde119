import type { IncomingMessage, ServerResponse } from "node:http";
import path from "node:path";
import sirv from "sirv";
import { answerHeaders, SCRIPT_POLICY } from "@/core/http/headers";
import { isServedHost, isServedOrigin } from "@/core/http/served";
import { setting } from "@/core/settings/environment";

/**
 * Files of the build: code, styles and fonts, whose names change with what is in them. A page asks for dozens; they are packed once,
 * when they are built, and handed out here, where the framework would look for each anew and pack it for each browser.
 */

const BUILT = "/_next/static/";
/** As long as what is said for good, s. */
const YEAR = 31_536_000;

/**
 * @param folder where the build is
 * @returns answers a request for a file of the build; false where it is for something else, which then somebody else answers
 */
export function builtFiles(folder: string): (request: IncomingMessage, response: ServerResponse) => boolean {
  const ours = setting("TIN_PUBLIC_URL");
  const headers = Object.entries(answerHeaders(SCRIPT_POLICY, ours));
  const hand = sirv(path.join(folder, "static"), {
    immutable: true,
    maxAge: YEAR,
    gzip: true,
    etag: true,
    setHeaders: (response) => {
      for (const [name, value] of headers) response.setHeader(name, value);
    },
  });
  return (request, response) => {
    const { url = "", method } = request;
    if (!url.startsWith(BUILT) || (method !== "GET" && method !== "HEAD")) return false;
    // Who calls us by another name is refused like everywhere.
    if (!isServedHost(request.headers.host ?? null, ours)) return false;
    if (!isServedOrigin(request.headers.origin ?? null, ours)) return false;
    let found = true;
    request.url = url.slice(BUILT.length - 1);
    // It calls this at once, or not at all: which files there are was looked up when it began.
    hand(request, response, () => {
      found = false;
    });
    request.url = url;
    return found;
  };
}
