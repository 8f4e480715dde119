import { setPasswordByLink } from "@/access/auth";
import { resetPassword } from "@/core/api/calls/access";
import { database } from "../../database";
import { recordOwn, serve } from "../../serve";
import { attempted, checkPassword, LINK_ENDED, refusing, tellOfChange } from "../../signing";

export const dynamic = "force-dynamic";

export const POST = serve(resetPassword, async ({ body: { link, password }, address }) => {
  checkPassword(password, []);
  const email = await attempted(null, address, () =>
    refusing(setPasswordByLink(database(), link, password), LINK_ENDED),
  );
  await recordOwn(email, "set a new password by a link", address);
  tellOfChange(email, "The password of your account was changed");
  return {};
});
