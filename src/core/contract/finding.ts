import type { Kind, Temporality } from "../metric/model";

/** Something that is not as agreed, and whose it is. "" stands for all. */
export interface Finding {
  /** What it is about, by the check or search that found it. */
  code: string;
  subject: string;
  service: string;
  environment: string;
  release: string;
  instance: string;
  detail: string;
}

/** Series of one instance that look alike, as far as a contract can tell. */
export interface ArrivedSeries {
  service: string;
  environment: string;
  release: string;
  instance: string;
  kind: Kind;
  unit: string;
  temporality: Temporality;
  monotonic: boolean;
  attributes: Record<string, string>;
}

/** Whose it is. */
export type Origin = Pick<Finding, "service" | "environment" | "release" | "instance">;

export function originOf({ service, environment, release, instance }: Origin): Origin {
  return { service, environment, release, instance };
}

/** Collects findings, one per code, subject and instance. */
export class Findings {
  private readonly found = new Map<string, Finding>();

  add(code: string, subject: string, origin: Origin, detail: string): void {
    const { service, environment, release, instance } = origin;
    const key = JSON.stringify([code, subject, service, environment, release, instance]);
    if (!this.found.has(key)) this.found.set(key, { code, subject, service, environment, release, instance, detail });
  }

  all(): Finding[] {
    return [...this.found.values()];
  }
}
