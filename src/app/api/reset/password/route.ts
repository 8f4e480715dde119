import { setPasswordByLink } from "@/access/resets";
import { resetPassword } from "@/core/api/calls/access";
import { database } from "../../database";
import { recordOwn, serve } from "../../serve";
import { attempted, checkPassword, LINK_ENDED, tellOfChange } from "../../signing";

export const dynamic = "force-dynamic";

export const POST = serve(resetPassword, async ({ body: { link, password }, address }) => {
  checkPassword(password, []);
  const email = await attempted(null, address, async () => {
    const found = await setPasswordByLink(database(), link, password);
    if (found === null) throw LINK_ENDED;
    return found;
  });
  await recordOwn(email, "set a new password by a link", address);
  tellOfChange(email, "The password of your account was changed");
  return {};
});
