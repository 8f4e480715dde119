import type { ComparisonAnswer } from "@/core/api/comparison";
import type { HeldValue } from "@/core/api/held";
import { type Asking, runJob } from "@/engine/pool";
import { resultOf } from "../serve";

interface Asked {
  service: string;
  environment: string;
  release: string;
  against: string;
  againstService: string;
  againstEnvironment?: string;
  metric: string;
  from: number;
  to: number;
  zone: string;
  hold: HeldValue[];
  by: string;
}

/** Holds a release against another one. @throws Refusal with what the engine says */
export async function compared(asked: Asked, asking: Asking, brief = false): Promise<ComparisonAnswer> {
  const job = { type: "comparison" as const, ...asked, againstEnvironment: asked.againstEnvironment ?? null, brief };
  return resultOf(await runJob(job, asking));
}
