import { getAttributes } from "@/core/api/calls/instruments";
import { listAttributes } from "@/store/registry/catalogue";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getAttributes, async ({ query: { metric } }) => ({
  attributes: await listAttributes(database(), metric),
}));
