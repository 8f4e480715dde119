import { getInstruments } from "@/core/api/calls/instruments";
import { listInstruments } from "@/store/registry/instruments";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getInstruments, ({ query, fresh }) => listInstruments(database(), Date.now(), query, fresh));
