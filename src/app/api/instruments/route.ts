import { describeInstrument, listInstruments } from "@/store/instruments";
import { metricsWithValue } from "@/store/knownValues";
import { answering, problem } from "../answer";
import { database } from "../database";

export const dynamic = "force-dynamic";

const LONGEST = 300;

/**
 * GET /api/instruments: the catalogue. With ?metric=NAME everything about one; with ?value=TEXT the names of the metrics
 * that have an attribute value with that text in it.
 */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const { searchParams } = new URL(request.url);
    const metric = searchParams.get("metric");
    const value = searchParams.get("value");
    if (value !== null) return Response.json({ found: await metricsWithValue(database(), value.slice(0, LONGEST)) });
    if (metric === null) return Response.json({ instruments: await listInstruments(database(), Date.now()) });
    const found = await describeInstrument(database(), metric, Date.now());
    if (found) return Response.json(found);
    return problem(404, {
      title: "No such instrument",
      detail: `nothing named ${metric} has arrived, and no contract is about it`,
    });
  });
}
