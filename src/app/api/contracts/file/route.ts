import { nameOf } from "@/access/callers";
import { CONTRACT_FILE, getContractFile, sendContractFile } from "@/core/api/calls/contracts";
import { listContracts, saveContracts } from "@/store/contracts/contracts";
import { database } from "../../database";
import { serve } from "../../serve";
import { fileResponse, uploadedFile } from "../../uploadedFile";

export const dynamic = "force-dynamic";

export const GET = serve(getContractFile, async ({ query: { format } }) => {
  const contracts = (await listContracts(database())).map(({ body }) => body);
  return fileResponse({ contracts }, format, "contracts");
});

export const POST = serve(sendContractFile, async ({ body, caller }) => {
  const who = nameOf(caller);
  const { contracts } = await uploadedFile(body, CONTRACT_FILE);
  const note = "imported from a file";
  const saved = await saveContracts(
    database(),
    contracts.map((one) => ({ name: one.name, body: one, note, who })),
  );
  return { saved, same: contracts.length - saved.length };
});
