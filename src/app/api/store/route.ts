import { getStore } from "@/core/api/calls/store";
import { describeStore } from "@/store/overview";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getStore, ({ query, fresh }) => describeStore(database(), Date.now(), query, fresh));
