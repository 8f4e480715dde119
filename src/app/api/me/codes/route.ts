import { auth } from "@/access/auth";
import { beginCodes, confirmCodes, endCodes } from "@/core/api/calls/access";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";
import { accountOf, attempted, codeOf, takeCookies } from "../../signing";

export const dynamic = "force-dynamic";

const WRONG_PASSWORD = { title: "Not changed", detail: "the password is wrong" };

/** @throws Refusal for what the library refuses */
async function refusing<T>(work: Promise<T>, title = WRONG_PASSWORD): Promise<T> {
  try {
    return await work;
  } catch (error) {
    const code = codeOf(error);
    if (code === undefined) throw error;
    if (code === "TOTP_ALREADY_ENABLED")
      throw new Refusal(409, { title: "Codes are set up already", detail: "take them away first to set up others" });
    throw new Refusal(403, title);
  }
}

export const POST = serve(beginCodes, ({ body, caller, request, address }) =>
  attempted(accountOf(caller).email, address, async () => {
    const made = await refusing(auth(database()).api.enableTwoFactor({ body, headers: request.headers }));
    const { totpURI, backupCodes } = made as { totpURI: string; backupCodes: string[] };
    return { uri: totpURI, secret: new URL(totpURI).searchParams.get("secret") ?? "", recovery: backupCodes };
  }),
);

export const PUT = serve(confirmCodes, ({ body: { code }, caller, request, address, heads }) =>
  attempted(accountOf(caller).email, address, async () => {
    const given = { body: { code }, headers: request.headers, returnHeaders: true } as const;
    const { headers } = await refusing(auth(database()).api.verifyTOTP(given), {
      title: "Not set up",
      detail: "the code is another; is the clock of this machine and that of your device right?",
    });
    takeCookies(headers, heads);
    return {};
  }),
);

export const DELETE = serve(endCodes, ({ body, caller, request, address, heads }) =>
  attempted(accountOf(caller).email, address, async () => {
    const given = { body, headers: request.headers, returnHeaders: true } as const;
    const { headers } = await refusing(auth(database()).api.disableTwoFactor(given));
    takeCookies(headers, heads);
    return {};
  }),
);
