import { revokeToken } from "@/store/tokens";
import { answering, problem } from "../../../answer";
import { database } from "../../../database";
import { idOf } from "../../../query";

/** DELETE /api/senders/tokens/ID: puts a token out of force for good. */
export function DELETE(_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answering(async () => {
    const id = idOf((await params).id);
    if (id !== null && (await revokeToken(database(), id))) return Response.json({});
    return problem(404, { title: "No such token", detail: "no token in force has this number" });
  });
}
