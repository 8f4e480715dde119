import { type NextRequest, NextResponse } from "next/server";
import { ADDRESS_HEADER } from "@/core/http/addressHeader";
import { CALLER_HEADER } from "@/core/http/callerHeader";
import { type Refused, sentWrongly } from "@/core/http/changes";
import { originsIn } from "@/core/http/framers";
import { ANSWER_POLICY, answerHeaders, documentPolicy, NONCE_HEADER, SCRIPT_POLICY } from "@/core/http/headers";
import { isServedHost, isServedOrigin } from "@/core/http/served";
import { isDevelopment, setting } from "@/core/settings/environment";

/**
 * Pages and answers are for those who call us by our name, and changes for pages of ours and programs. Where a browser
 * opens a document, the layout is told which page it is: its first answers go with it.
 */
export function proxy(request: NextRequest): NextResponse {
  const { pathname, search } = request.nextUrl;
  const refused = refusalOf(request);
  if (refused) return withHeaders(problemOf(refused), ANSWER_POLICY);
  const headers = new Headers(request.headers);
  // While pages are developed, nothing stands before this that would have noted it.
  if (isDevelopment()) headers.set(CALLER_HEADER, "127.0.0.1");
  if (pathname.startsWith("/api/")) return withHeaders(NextResponse.next({ request: { headers } }), ANSWER_POLICY);
  if (pathname.startsWith("/_next/")) return withHeaders(NextResponse.next(), SCRIPT_POLICY);
  const nonce = btoa(crypto.randomUUID());
  const framers = pathname === "/shared" ? originsIn(setting("TIN_FRAME_ORIGINS"), "TIN_FRAME_ORIGINS") : [];
  const policy = documentPolicy(nonce, isDevelopment(), framers);
  headers.delete(ADDRESS_HEADER);
  headers.set(NONCE_HEADER, nonce);
  // The framework gives its own scripts the nonce that it finds here.
  headers.set("Content-Security-Policy", policy);
  if (headers.get("accept")?.includes("text/html")) headers.set(ADDRESS_HEADER, pathname + search);
  const response = withHeaders(NextResponse.next({ request: { headers } }), policy);
  // The older header knows no list: the policy says who may.
  if (framers.length > 0) response.headers.delete("X-Frame-Options");
  return response;
}

const NOT_FROM_HERE: Refused = {
  status: 403,
  title: "Not from here",
  detail: "no other name is answered to than this machine's (http://localhost) and that in TIN_PUBLIC_URL",
};

function refusalOf({ headers, method, nextUrl }: NextRequest): Refused | null {
  const host = headers.get("host");
  const origin = headers.get("origin");
  const ours = setting("TIN_PUBLIC_URL");
  if (!isServedHost(host, ours) || !isServedOrigin(origin, ours)) return NOT_FROM_HERE;
  if (!nextUrl.pathname.startsWith("/api/")) return null;
  const hasBody = Number(headers.get("content-length") ?? 0) > 0 || headers.has("transfer-encoding");
  const site = headers.get("sec-fetch-site");
  return sentWrongly({ method, host, origin, site, contentType: headers.get("content-type"), hasBody });
}

function problemOf({ status, ...content }: Refused): NextResponse {
  return NextResponse.json(
    { status, ...content },
    { status, headers: { "Content-Type": "application/problem+json", "Cache-Control": "no-store" } },
  );
}

function withHeaders(response: NextResponse, policy: string): NextResponse {
  for (const [name, value] of Object.entries(answerHeaders(policy, setting("TIN_PUBLIC_URL"))))
    response.headers.set(name, value);
  return response;
}
