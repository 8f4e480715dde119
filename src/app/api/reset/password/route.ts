import { auth } from "@/access/auth";
import { resetPassword } from "@/core/api/calls/access";
import { database } from "../../database";
import { recordNamed, serve } from "../../serve";
import { attempted, checkPassword, codeOf, LINK_ENDED } from "../../signing";

export const dynamic = "force-dynamic";

export const POST = serve(resetPassword, async ({ body: { link, password }, address }) => {
  checkPassword(password, []);
  await attempted(null, address, async () => {
    try {
      await auth(database()).api.resetPassword({ body: { newPassword: password, token: link } });
    } catch (error) {
      if (codeOf(error) === undefined) throw error;
      throw LINK_ENDED;
    }
  });
  await recordNamed("", "set a new password by a link", address);
  return {};
});
