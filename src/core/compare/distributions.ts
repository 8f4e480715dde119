import { compiled } from "cephes";

/** Quantiles of distributions are ready once this was awaited. @see reach */
export async function prepareDistributions(): Promise<void> {
  await compiled;
}
