/** The package's own types are not found by its "exports"; what of it is used here. */
declare module "cephes" {
  export const compiled: Promise<void>;
  /** The quantile of the standard normal distribution. */
  export function ndtri(p: number): number;
  /** The quantile of Student's t distribution with k degrees of freedom. */
  export function stdtri(k: number, p: number): number;
}
