import type { z } from "zod";
import type { publishing } from "@/core/api/pipeline";
import { OutdatedDraft, publishPipeline } from "@/store/pipeline/pipeline";
import { database } from "./database";
import { Refusal } from "./serve";

/** Publishes a draft. @throws Refusal where something else was published meanwhile */
export async function published(draft: z.output<typeof publishing>): Promise<{ id: number }> {
  try {
    return { id: await publishPipeline(database(), draft) };
  } catch (error) {
    if (!(error instanceof OutdatedDraft)) throw error;
    throw new Refusal(409, { title: "Something else was published", detail: error.message });
  }
}
