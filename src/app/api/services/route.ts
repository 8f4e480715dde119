import { listInstances, listServiceMetrics } from "@/store/services";
import { answering, badRequest } from "../answer";
import { database } from "../database";
import { placeQuery, spanQuery } from "../query";

export const dynamic = "force-dynamic";

/** GET /api/services?from=&to= : the instances heard meanwhile. With ?service=&environment= the metrics of that one. */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const parameters = Object.fromEntries(new URL(request.url).searchParams);
    if (parameters.service !== undefined) {
      const place = placeQuery.safeParse(parameters);
      if (!place.success) return badRequest(place.error);
      return Response.json({
        metrics: await listServiceMetrics(database(), place.data.service, place.data.environment),
      });
    }
    const span = spanQuery.safeParse(parameters);
    if (!span.success) return badRequest(span.error);
    return Response.json({ instances: await listInstances(database(), span.data.from, span.data.to, Date.now()) });
  });
}
