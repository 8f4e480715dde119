import { auth, halfSignedIn } from "@/access/auth";
import { signInWithCode } from "@/core/api/calls/access";
import { claimCode, isCodeUsed } from "@/store/access/usedCodes";
import { database } from "../../database";
import { Refusal, recordOwn, serve } from "../../serve";
import { attempted, refusing, takeCookies } from "../../signing";

export const dynamic = "force-dynamic";

const refused = (detail: string) => new Refusal(401, { title: "Not signed in", detail });
const WRONG = refused("the code is wrong, or was used already");
const ANEW = refused("begin anew with your password");
const OF = { INVALID_TWO_FACTOR_COOKIE: ANEW, TOO_MANY_ATTEMPTS_REQUEST_NEW_CODE: ANEW };

export const POST = serve(signInWithCode, ({ body: { code, recovery }, request, address, heads }) =>
  attempted(null, address, async () => {
    // Said before the library looks: it takes the half of the sign-in with a code that fits, used or not.
    const account = recovery ? null : await halfSignedIn(database(), request.headers);
    if (account !== null && (await isCodeUsed(database(), account, code))) throw WRONG;
    const { verifyBackupCode, verifyTOTP } = auth(database()).api;
    const given = { body: { code }, headers: request.headers, returnHeaders: true } as const;
    const { headers, response } = await refusing(recovery ? verifyBackupCode(given) : verifyTOTP(given), WRONG, OF);
    const { user, token } = response;
    if (!recovery && !(await claimCode(database(), user.id, code))) {
      // The library began a session, of which nobody is told.
      await database().query("DELETE FROM sign_in WHERE token = $1", [token]);
      throw WRONG;
    }
    takeCookies(headers, heads);
    await recordOwn(user.email, recovery ? "signed in with a recovery code" : "signed in", address);
    return {};
  }),
);
