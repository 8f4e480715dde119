import { auth } from "@/access/auth";
import { endResetLinks } from "@/access/resets";
import { changePassword } from "@/core/api/calls/access";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";
import { accountOf, attempted, checkPassword, refusing, takeCookies, tellOfChange } from "../../signing";

export const dynamic = "force-dynamic";

const WRONG = new Refusal(403, { title: "Not changed", detail: "the password that you have now is another" });

export const PUT = serve(changePassword, async ({ body: { current, password }, request, caller, address, heads }) => {
  const { name, email } = accountOf(caller);
  checkPassword(password, [name, email]);
  return attempted(email, address, async () => {
    const asked = auth(database()).api.changePassword({
      body: { currentPassword: current, newPassword: password, revokeOtherSessions: true },
      headers: request.headers,
      returnHeaders: true,
    });
    const { headers } = await refusing(asked, WRONG);
    takeCookies(headers, heads);
    await endResetLinks(database(), email);
    tellOfChange(email, "The password of your account was changed");
    return {};
  });
});
