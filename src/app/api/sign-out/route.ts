import { auth } from "@/access/auth";
import { signOut } from "@/core/api/calls/access";
import { database } from "../database";
import { serve } from "../serve";
import { takeCookies } from "../signing";

export const dynamic = "force-dynamic";

export const POST = serve(signOut, async ({ request, heads }) => {
  const { headers } = await auth(database()).api.signOut({ headers: request.headers, returnHeaders: true });
  takeCookies(headers, heads);
  return {};
});
