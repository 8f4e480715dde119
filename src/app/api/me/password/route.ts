import { auth } from "@/access/auth";
import { changePassword } from "@/core/api/calls/access";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";
import { accountOf, attempted, checkPassword, codeOf, takeCookies } from "../../signing";

export const dynamic = "force-dynamic";

export const PUT = serve(changePassword, async ({ body: { current, password }, request, caller, address, heads }) => {
  const { name, email } = accountOf(caller);
  checkPassword(password, [name, email]);
  return attempted(email, address, async () => {
    try {
      const { headers } = await auth(database()).api.changePassword({
        body: { currentPassword: current, newPassword: password, revokeOtherSessions: true },
        headers: request.headers,
        returnHeaders: true,
      });
      takeCookies(headers, heads);
      return {};
    } catch (error) {
      if (codeOf(error) === undefined) throw error;
      throw new Refusal(403, { title: "Not changed", detail: "the password that you have now is another" });
    }
  });
});
