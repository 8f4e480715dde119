import { changePrice, getPrice } from "@/core/api/calls/pipeline";
import { DEFAULT_PRICE, priceSchema } from "@/core/api/pipeline";
import { serve } from "../../serve";
import { changeSetting, settingOf } from "../../setting";

export const dynamic = "force-dynamic";

const PRICE = { name: "price", schema: priceSchema, usual: DEFAULT_PRICE };

export const GET = serve(getPrice, () => settingOf(PRICE));

export const PUT = serve(changePrice, ({ body }) => changeSetting(PRICE, body));
