import { type NextRequest, NextResponse } from "next/server";
import { isLoopbackHost, isLoopbackOrigin } from "@/core/http/loopback";

/** Until there are accounts, pages and answers are for this machine only. */
export function proxy(request: NextRequest): NextResponse {
  if (isLoopbackHost(request.headers.get("host")) && isLoopbackOrigin(request.headers.get("origin")))
    return NextResponse.next();
  return NextResponse.json(
    { title: "Not from here", detail: "only callers on this machine are served: open it as http://localhost" },
    { status: 403, headers: { "Content-Type": "application/problem+json" } },
  );
}
