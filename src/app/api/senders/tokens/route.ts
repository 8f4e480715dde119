import { makeToken } from "@/core/api/calls/senders";
import { createToken } from "@/store/senders/tokens";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const POST = serve(makeToken, ({ body }) => createToken(database(), body));
