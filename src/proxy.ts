import { type NextRequest, NextResponse } from "next/server";
import { ADDRESS_HEADER } from "@/core/http/addressHeader";
import { isLoopbackHost, isLoopbackOrigin } from "@/core/http/loopback";

/**
 * Until there are accounts, pages and answers are for this machine only. Where a browser opens a document, the layout is
 * told which page it is: its first answers go with it.
 */
export function proxy(request: NextRequest): NextResponse {
  if (!isLoopbackHost(request.headers.get("host")) || !isLoopbackOrigin(request.headers.get("origin")))
    return NextResponse.json(
      { title: "Not from here", detail: "only callers on this machine are served: open it as http://localhost" },
      { status: 403, headers: { "Content-Type": "application/problem+json" } },
    );
  const { pathname, search } = request.nextUrl;
  if (pathname.startsWith("/api/") || pathname.startsWith("/_next/")) return NextResponse.next();
  const headers = new Headers(request.headers);
  headers.delete(ADDRESS_HEADER);
  if (headers.get("accept")?.includes("text/html")) headers.set(ADDRESS_HEADER, pathname + search);
  return NextResponse.next({ request: { headers } });
}
