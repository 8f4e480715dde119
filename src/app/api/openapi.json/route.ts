import { ALL_CALLS } from "@/core/api/calls";
import { getOpenApi } from "@/core/api/calls/system";
import { openApi } from "@/core/api/openapi";
import own from "../../../../package.json";
import { serve } from "../serve";

export const GET = serve(getOpenApi, () => openApi(ALL_CALLS, own.version));
