import { contractSaving } from "@/core/contract/contract";
import { contractHistory, listContracts, OutdatedContract, saveContracts } from "@/store/contracts";
import { answering, badRequest, jsonBody, problem } from "../answer";
import { database } from "../database";
import { withdrawal } from "../query";

export const dynamic = "force-dynamic";

/** GET /api/contracts: all that count now; with ?name= every version of one, newest first. */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const name = new URL(request.url).searchParams.get("name");
    if (name === null) return Response.json({ contracts: await listContracts(database()) });
    return Response.json({ versions: await contractHistory(database(), name) });
  });
}

/** POST /api/contracts: saves a contract as its next version. */
export function POST(request: Request): Promise<Response> {
  return answering(async () => {
    const asked = contractSaving.safeParse(await jsonBody(request));
    if (!asked.success) return badRequest(asked.error);
    const { body, note, who, based } = asked.data;
    try {
      const [saved] = await saveContracts(database(), [{ name: body.name, body, note, who, based }]);
      if (saved) return Response.json(saved, { status: 201 });
    } catch (error) {
      if (!(error instanceof OutdatedContract)) throw error;
      return problem(409, {
        title: "Somebody else saved it meanwhile",
        detail: error.message,
        hint: "look at that version, and change it from there",
      });
    }
    return problem(409, {
      title: "Nothing changed",
      detail: "the contract says the same already; no version was added",
    });
  });
}

/** DELETE /api/contracts: withdraws a contract; its versions stay on record. */
export function DELETE(request: Request): Promise<Response> {
  return answering(async () => {
    const asked = withdrawal.safeParse(await jsonBody(request));
    if (!asked.success) return badRequest(asked.error);
    const [saved] = await saveContracts(database(), [{ ...asked.data, body: null }]);
    if (saved) return Response.json(saved);
    return problem(404, { title: "No such contract", detail: `no contract about ${asked.data.name} is in force` });
  });
}
