import { setPasswordByLink } from "@/access/auth";
import { resetPassword } from "@/core/api/calls/access";
import { database } from "../../database";
import { recordOwn, serve } from "../../serve";
import { attempted, checkPassword, codeOf, LINK_ENDED } from "../../signing";

export const dynamic = "force-dynamic";

export const POST = serve(resetPassword, async ({ body: { link, password }, address }) => {
  checkPassword(password, []);
  const email = await attempted(null, address, async () => {
    try {
      return await setPasswordByLink(database(), link, password);
    } catch (error) {
      if (codeOf(error) === undefined) throw error;
      throw LINK_ENDED;
    }
  });
  await recordOwn(email, "set a new password by a link", address);
  return {};
});
