import { changeSlow, getSlow } from "@/core/api/calls/services";
import { serve } from "../serve";
import { changeSetting, settingOf } from "../setting";
import { SLOW } from "../slowBounds";

export const dynamic = "force-dynamic";

export const GET = serve(getSlow, () => settingOf(SLOW));

export const PUT = serve(changeSlow, ({ body }) => changeSetting(SLOW, body));
