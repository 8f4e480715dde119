import { nameOf } from "@/access/callers";
import { getContracts, saveContract, withdrawContract } from "@/core/api/calls/contracts";
import { listContracts, OutdatedContract, saveContracts } from "@/store/contracts/contracts";
import { database } from "../database";
import { Refusal, serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getContracts, async () => ({ contracts: await listContracts(database()) }));

export const POST = serve(saveContract, async ({ body: { body, note, based }, caller }) => {
  try {
    const [saved] = await saveContracts(database(), [{ name: body.name, body, note, who: nameOf(caller), based }]);
    if (saved) return saved;
  } catch (error) {
    if (!(error instanceof OutdatedContract)) throw error;
    throw new Refusal(409, {
      title: "Somebody else saved it meanwhile",
      detail: error.message,
      hint: "look at that version, and change it from there",
    });
  }
  const detail = "the contract says the same already; no version was added";
  throw new Refusal(409, { title: "Nothing changed", detail });
});

export const DELETE = serve(withdrawContract, async ({ body, caller }) => {
  const [saved] = await saveContracts(database(), [{ ...body, body: null, who: nameOf(caller) }]);
  if (saved) return saved;
  throw new Refusal(404, { title: "No such contract", detail: `no contract about ${body.name} is in force` });
});
