import { targetRequest } from "@/core/api/targets";
import { changeTarget, deleteTarget, restoreTarget } from "@/store/targets";
import { answering, badRequest, jsonBody, problem } from "../../answer";
import { database } from "../../database";
import { idOf } from "../../query";

const missing = () => problem(404, { title: "No such target", detail: "no target has this number; it may be deleted" });

interface Context {
  params: Promise<{ id: string }>;
}

/** PUT /api/targets/ID: changes a target; a secret that is left out stays. */
export function PUT(request: Request, { params }: Context): Promise<Response> {
  return answering(async () => {
    const id = idOf((await params).id);
    const asked = targetRequest.safeParse(await jsonBody(request));
    if (!asked.success) return badRequest(asked.error);
    return id !== null && (await changeTarget(database(), id, asked.data)) ? Response.json({}) : missing();
  });
}

/** DELETE /api/targets/ID: stops scraping it. What was collected stays, and for a day the target can be brought back. */
export function DELETE(_: Request, { params }: Context): Promise<Response> {
  return answering(async () => {
    const id = idOf((await params).id);
    return id !== null && (await deleteTarget(database(), id)) ? Response.json({}) : missing();
  });
}

/** POST /api/targets/ID: brings a deleted target back. */
export function POST(_: Request, { params }: Context): Promise<Response> {
  return answering(async () => {
    const id = idOf((await params).id);
    return id !== null && (await restoreTarget(database(), id)) ? Response.json({}) : missing();
  });
}
