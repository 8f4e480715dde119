import { auth } from "@/access/auth";
import { signInWithCode } from "@/core/api/calls/access";
import { database } from "../../database";
import { Refusal, recordOwn, serve } from "../../serve";
import { attempted, codeOf, takeCookies } from "../../signing";

export const dynamic = "force-dynamic";

export const POST = serve(signInWithCode, ({ body: { code, recovery }, request, address, heads }) =>
  attempted(null, address, async () => {
    const { verifyBackupCode, verifyTOTP } = auth(database()).api;
    const given = { body: { code }, headers: request.headers, returnHeaders: true } as const;
    try {
      const { headers, response } = recovery ? await verifyBackupCode(given) : await verifyTOTP(given);
      takeCookies(headers, heads);
      await recordOwn(response.user.email, recovery ? "signed in with a recovery code" : "signed in", address);
      return {};
    } catch (error) {
      const why = codeOf(error);
      if (why === undefined) throw error;
      const again = why === "INVALID_TWO_FACTOR_COOKIE" || why === "TOO_MANY_ATTEMPTS_REQUEST_NEW_CODE";
      const detail = again ? "begin anew with your password" : "the code is wrong, or was used already";
      throw new Refusal(401, { title: "Not signed in", detail });
    }
  }),
);
