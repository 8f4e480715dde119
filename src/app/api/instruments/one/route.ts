import { getInstrument } from "@/core/api/calls/instruments";
import { describeInstrument } from "@/store/registry/instruments";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getInstrument, async ({ query: { metric } }) => {
  const found = await describeInstrument(database(), metric, Date.now());
  if (found) return found;
  const detail = `nothing named ${metric} has arrived, and no contract is about it`;
  throw new Refusal(404, { title: "No such instrument", detail });
});
