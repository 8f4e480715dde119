import { changeSlow, getSlow } from "@/core/api/calls/services";
import { slowBounds } from "@/core/api/services";
import { DEFAULT_SLOW } from "@/core/service/sections";
import { serve } from "../serve";
import { changeSetting, settingOf } from "../setting";

export const dynamic = "force-dynamic";

const SLOW = { name: "slow", schema: slowBounds, usual: DEFAULT_SLOW };

export const GET = serve(getSlow, () => settingOf(SLOW));

export const PUT = serve(changeSlow, ({ body }) => changeSetting(SLOW, body));
