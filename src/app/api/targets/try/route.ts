import { tryTarget } from "@/core/api/calls/senders";
import { trialAnswer } from "@/core/api/targets";
import { askIntake } from "../../intake";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const POST = serve(tryTarget, async ({ body }) =>
  trialAnswer.parse(await askIntake("/targets/try", body, "Not tried")),
);
