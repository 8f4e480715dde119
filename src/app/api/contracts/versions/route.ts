import { getContractVersions } from "@/core/api/calls/contracts";
import { contractHistory } from "@/store/contracts/contracts";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getContractVersions, async ({ query: { name } }) => ({
  versions: await contractHistory(database(), name),
}));
