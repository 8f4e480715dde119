import { getFindings } from "@/core/api/calls/instruments";
import { listFindings } from "@/store/contracts/findings";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getFindings, async () => ({ findings: await listFindings(database()) }));
