import { deleteSetAside } from "@/store/setAside";
import { answering } from "../../answer";
import { database } from "../../database";

export const dynamic = "force-dynamic";

/** DELETE /api/store/aside: deletes what background jobs could not handle, for good. */
export function DELETE(): Promise<Response> {
  return answering(async () => Response.json({ deleted: await deleteSetAside(database()) }));
}
