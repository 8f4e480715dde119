import type { z } from "zod";
import { nameOf } from "@/access/callers";
import type { Caller } from "@/core/access/rights";
import type { publishing } from "@/core/api/pipeline";
import { OutdatedDraft, publishPipeline } from "@/store/pipeline/pipeline";
import { database } from "./database";
import { Refusal } from "./serve";

/** Publishes a draft. @throws Refusal where something else was published meanwhile */
export async function published(draft: z.output<typeof publishing>, caller: Caller): Promise<{ id: number }> {
  try {
    return { id: await publishPipeline(database(), { ...draft, who: nameOf(caller) }) };
  } catch (error) {
    if (!(error instanceof OutdatedDraft)) throw error;
    throw new Refusal(409, { title: "Something else was published", detail: error.message });
  }
}
