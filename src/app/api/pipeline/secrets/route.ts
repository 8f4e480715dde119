import { keepSecret } from "@/core/api/calls/pipeline";
import { setExporterSecret } from "@/store/exports/exporterSecrets";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const POST = serve(keepSecret, async ({ body }) => {
  const { exporter, name, value } = body;
  await setExporterSecret(database(), body);
  return { exporter, name, kept: value !== "" };
});
