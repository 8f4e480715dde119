import { auth } from "@/access/auth";
import { newRecoveryCodes } from "@/core/api/calls/access";
import { database } from "../../../database";
import { Refusal, serve } from "../../../serve";
import { accountOf, attempted, refusing, tellOfChange } from "../../../signing";

export const dynamic = "force-dynamic";

const REFUSED = new Refusal(403, { title: "Not made", detail: "the password is wrong, or no codes are set up" });

export const POST = serve(newRecoveryCodes, ({ body, caller, request, address }) =>
  attempted(accountOf(caller).email, address, async () => {
    const asked = auth(database()).api.generateBackupCodes({ body, headers: request.headers });
    const { backupCodes } = await refusing(asked, REFUSED);
    tellOfChange(accountOf(caller).email, "New recovery codes were made for your account");
    return { recovery: backupCodes };
  }),
);
