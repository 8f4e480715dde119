import { getServiceSections } from "@/core/api/calls/services";
import { sectionsOf } from "@/core/service/sections";
import { listServiceMetrics } from "@/store/registry/services";
import { database } from "../../database";
import { serve } from "../../serve";
import { settingOf } from "../../setting";
import { SLOW } from "../../slowBounds";

export const dynamic = "force-dynamic";

export const GET = serve(getServiceSections, async ({ query: { service, environment } }) => {
  const [metrics, slow] = await Promise.all([listServiceMetrics(database(), service, environment), settingOf(SLOW)]);
  const { sections, ready } = sectionsOf(metrics, { service, environment }, slow);
  return {
    metrics: metrics.length,
    sections,
    ready: ready.map(({ id, name, purpose }) => ({ id, name, purpose })),
  };
});
