import { publicAddress } from "@/access/auth";
import { canMail, sendMail } from "@/access/mail";
import { createResetLink } from "@/access/resets";
import { askReset } from "@/core/api/calls/access";
import { noteFault } from "@/engine/faults";
import { database } from "../database";
import { recordNamed, serve } from "../serve";
import { attempted } from "../signing";

export const dynamic = "force-dynamic";

async function mailLink(email: string): Promise<void> {
  const text = await createResetLink(database(), email, email);
  if (text === null) return;
  const link = `${publicAddress()}/reset?link=${text}`;
  await sendMail(
    email,
    "A new password for Tin Ladder",
    `Somebody asked for a new password for this address at Tin Ladder. Choose one within an hour:\n\n${link}\n\nIf it was not you, nothing has to be done.\n`,
  );
}

/** The answer waits for nothing that only happens where there is such an account, and does not say whether there is. */
export const POST = serve(askReset, async ({ body: { email }, address }) => {
  // Each counts as an attempt that failed: nobody's box is filled.
  const done = attempted(`reset ${email}`, address, async () => {
    throw new Asked();
  });
  await done.catch((error: unknown) => {
    if (!(error instanceof Asked)) throw error;
  });
  await recordNamed(email, "asked for a new password", address);
  if (canMail()) setTimeout(() => void mailLink(email).catch((error) => noteFault(error, { call: "reset" })));
  return {};
});

class Asked extends Error {}
