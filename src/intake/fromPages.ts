import { timingSafeEqual } from "node:crypto";
import type { IncomingMessage } from "node:http";
import type { z } from "zod";
import { houseKey } from "@/store/database/secrets";
import { RequestError, readBody } from "./receive/body";
import { type Budget, BytesInFlight } from "./receive/budget";

/** Refuses who is no process of this installation. @throws RequestError 403 */
export function askedByHouse(request: IncomingMessage): void {
  const wanted = Buffer.from(houseKey());
  const shown = Buffer.from(String(request.headers["x-tin-key"] ?? ""));
  if (shown.length !== wanted.length || !timingSafeEqual(shown, wanted))
    throw new RequestError(403, "only Tin Ladder's own pages may ask this", 7);
}

/** What Tin Ladder's own pages ask of the intake. @throws RequestError 400, 403 */
export async function askedByPages<T extends z.ZodType>(
  schema: T,
  request: IncomingMessage,
  budget: Budget,
): Promise<z.infer<T>> {
  askedByHouse(request);
  const inFlight = new BytesInFlight(budget, "pages");
  try {
    const body = await readBody(request, inFlight);
    const parsed = schema.safeParse(JSON.parse(body.toString("utf8")));
    if (!parsed.success) throw new RequestError(400, parsed.error.issues[0].message);
    return parsed.data;
  } catch (error) {
    if (error instanceof SyntaxError) throw new RequestError(400, "the body is not JSON");
    throw error;
  } finally {
    inFlight.release();
  }
}
