import { changePrice, getPrice } from "@/core/api/calls/pipeline";
import { priceSchema, USUAL_PRICE } from "@/core/api/pipeline";
import { serve } from "../../serve";
import { changeSetting, settingOf } from "../../setting";

export const dynamic = "force-dynamic";

const PRICE = { name: "price", schema: priceSchema, usual: USUAL_PRICE };

export const GET = serve(getPrice, () => settingOf(PRICE));

export const PUT = serve(changePrice, ({ body }) => changeSetting(PRICE, body));
