export const dynamic = "force-dynamic";

/** GET /api/health: the web process answers. */
export function GET(): Response {
  return Response.json({ status: "up" });
}
