import { listReleases } from "@/store/catalogue";
import { answering } from "../answer";
import { database } from "../database";

export const dynamic = "force-dynamic";

/** GET /api/releases?service=&environment= */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const { searchParams } = new URL(request.url);
    const releases = await listReleases(
      database(),
      searchParams.get("service") ?? "",
      searchParams.get("environment") ?? "",
    );
    return Response.json({ releases });
  });
}
