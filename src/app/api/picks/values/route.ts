import { getPickValues } from "@/core/api/calls/sheets";
import { ReadingError } from "@/core/reading/language/tree";
import { pickValues } from "@/store/sheets/pickValues";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";

export const dynamic = "force-dynamic";

export const POST = serve(getPickValues, async ({ body: { source, picks } }) => {
  try {
    return await pickValues(database(), source, picks);
  } catch (error) {
    if (!(error instanceof ReadingError)) throw error;
    throw new Refusal(400, { title: "The condition is not understood", detail: error.message, hint: error.hint });
  }
});
