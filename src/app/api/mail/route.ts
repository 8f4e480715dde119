import { canMail, sendMail } from "@/access/mail";
import { getMail, tryMail } from "@/core/api/calls/people";
import { setting } from "@/core/settings/environment";
import { serve } from "../serve";
import { accountOf } from "../signing";

export const dynamic = "force-dynamic";

export const GET = serve(getMail, () => ({ on: canMail(), from: setting("TIN_MAIL_FROM") }));

export const POST = serve(tryMail, async ({ caller }) => ({
  taken: await sendMail(accountOf(caller).email, "Mail from Tin Ladder works", "This is all that it says.\n"),
}));
