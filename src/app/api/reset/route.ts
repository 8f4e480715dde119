import { publicAddress, resetToken } from "@/access/auth";
import { canMail, sendMail } from "@/access/mail";
import { askReset } from "@/core/api/calls/access";
import { database } from "../database";
import { recordNamed, serve } from "../serve";
import { attempted } from "../signing";

export const dynamic = "force-dynamic";

/** The answer does not wait for the mail, nor say whether there is one. */
export const POST = serve(askReset, async ({ body: { email }, address }) => {
  // Each counts as an attempt that failed: nobody's box is filled.
  const done = attempted(`reset ${email}`, address, async () => {
    throw new Asked();
  });
  await done.catch((error: unknown) => {
    if (!(error instanceof Asked)) throw error;
  });
  await recordNamed(email, "asked for a new password", address);
  if (canMail()) {
    const token = await resetToken(database(), email);
    if (token !== null) {
      const link = `${publicAddress()}/reset?link=${token}`;
      const text = `Somebody asked for a new password for this address at Tin Ladder. Choose one within an hour:\n\n${link}\n\nIf it was not you, nothing has to be done.\n`;
      void sendMail(email, "A new password for Tin Ladder", text);
    }
  }
  return {};
});

class Asked extends Error {}
