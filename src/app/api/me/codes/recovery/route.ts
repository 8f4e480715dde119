import { auth } from "@/access/auth";
import { newRecoveryCodes } from "@/core/api/calls/access";
import { database } from "../../../database";
import { Refusal, serve } from "../../../serve";
import { accountOf, attempted, codeOf } from "../../../signing";

export const dynamic = "force-dynamic";

export const POST = serve(newRecoveryCodes, ({ body, caller, request, address }) =>
  attempted(accountOf(caller).email, address, async () => {
    try {
      const made = await auth(database()).api.generateBackupCodes({ body, headers: request.headers });
      return { recovery: made.backupCodes };
    } catch (error) {
      if (codeOf(error) === undefined) throw error;
      throw new Refusal(403, { title: "Not made", detail: "the password is wrong, or no codes are set up" });
    }
  }),
);
