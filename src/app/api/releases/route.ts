import { getReleases } from "@/core/api/calls/releases";
import { listReleases } from "@/store/registry/catalogue";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getReleases, async ({ query: { service, environment } }) => ({
  releases: await listReleases(database(), service, environment),
}));
