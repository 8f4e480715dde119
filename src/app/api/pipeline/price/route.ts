import { priceSchema, USUAL_PRICE } from "@/core/api/pipeline";
import { changeSetting, giveSetting } from "../../setting";

export const dynamic = "force-dynamic";

const PRICE = { name: "price", schema: priceSchema, usual: USUAL_PRICE };

/** GET /api/pipeline/price: what the team pays for series and for gigabytes. */
export function GET(): Promise<Response> {
  return giveSetting(PRICE);
}

/** PUT /api/pipeline/price: changes some of it. */
export function PUT(request: Request): Promise<Response> {
  return changeSetting(PRICE, request);
}
