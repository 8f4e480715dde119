import { signIn } from "@/core/api/calls/access";
import { Refusal, recordNamed, recordOwn, serve } from "../serve";
import { attempted, signedIn } from "../signing";

export const dynamic = "force-dynamic";

export const POST = serve(signIn, async ({ body, request, address, heads }) => {
  try {
    const result = await attempted(body.email, address, () => signedIn(body, request, heads));
    if (!result.codeNeeded) await recordOwn(body.email, "signed in", address);
    return result;
  } catch (error) {
    if (error instanceof Refusal && error.status !== 429) await recordNamed(body.email, "could not sign in", address);
    throw error;
  }
});
