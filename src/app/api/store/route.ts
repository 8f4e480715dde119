import { describeStore } from "@/store/overview";
import { answering } from "../answer";
import { database } from "../database";

export const dynamic = "force-dynamic";

/** GET /api/store: what is stored, what it costs, and how upkeep is doing. */
export function GET(): Promise<Response> {
  return answering(async () => Response.json(await describeStore(database())));
}
