import { previewPurge } from "@/core/api/calls/store";
import { previewPurge as preview } from "@/store/strips/purge";
import { database } from "../../../database";
import { serve } from "../../../serve";

export const dynamic = "force-dynamic";

export const POST = serve(previewPurge, ({ body }) => preview(database(), body));
