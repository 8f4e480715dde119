import { auth } from "@/access/auth";
import { beginCodes, confirmCodes, endCodes } from "@/core/api/calls/access";
import { claimCode } from "@/store/access/usedCodes";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";
import { accountOf, attempted, refusing, takeCookies, tellOfChange } from "../../signing";

export const dynamic = "force-dynamic";

const WRONG_PASSWORD = new Refusal(403, { title: "Not changed", detail: "the password is wrong" });
const WRONG_CODE = new Refusal(403, {
  title: "Not set up",
  detail: "the code is another; is the clock of this machine and that of your device right?",
});
const SET_UP = new Refusal(409, {
  title: "Codes are set up already",
  detail: "take them away first to set up others",
});

export const POST = serve(beginCodes, ({ body, caller, request, address }) =>
  attempted(accountOf(caller).email, address, async () => {
    const asked = auth(database()).api.enableTwoFactor({ body, headers: request.headers });
    const made = await refusing(asked, WRONG_PASSWORD, { TOTP_ALREADY_ENABLED: SET_UP });
    const { totpURI, backupCodes } = made as { totpURI: string; backupCodes: string[] };
    return { uri: totpURI, secret: new URL(totpURI).searchParams.get("secret") ?? "", recovery: backupCodes };
  }),
);

export const PUT = serve(confirmCodes, ({ body: { code }, caller, request, address, heads }) =>
  attempted(accountOf(caller).email, address, async () => {
    const { id, email } = accountOf(caller);
    const given = { body: { code }, headers: request.headers, returnHeaders: true } as const;
    const { headers } = await refusing(auth(database()).api.verifyTOTP(given), WRONG_CODE);
    await claimCode(database(), id, code);
    takeCookies(headers, heads);
    tellOfChange(email, "One-time codes were set up for your account");
    return {};
  }),
);

export const DELETE = serve(endCodes, ({ body, caller, request, address, heads }) =>
  attempted(accountOf(caller).email, address, async () => {
    const given = { body, headers: request.headers, returnHeaders: true } as const;
    const { headers } = await refusing(auth(database()).api.disableTwoFactor(given), WRONG_PASSWORD);
    takeCookies(headers, heads);
    tellOfChange(accountOf(caller).email, "One-time codes were taken away from your account");
    return {};
  }),
);
