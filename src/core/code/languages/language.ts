import type { ContractBody, InstrumentKind } from "../../contract/contract";

/** What code in one language looks like. */

/** What is known of the service that will send. */
export interface Setting {
  service: string;
  release: string;
  environment: string;
  protocol: "http" | "grpc";
  /** Of the intake, by protocol. */
  /** Where the intake is reached, without a port: http://localhost. */
  at: string;
  port: number;
  /** "" for none. */
  key: string;
}

export interface CodeBlock {
  title: string;
  text: string;
}

export interface LanguageCode {
  name: string;
  /** Packages and start-up code for metrics that the service makes itself. */
  startUp: (setting: Setting) => CodeBlock[];
  /** How metrics, traces and logs of the libraries in use come without code of one's own; each process has an id of its own. */
  automatic: (setting: Setting) => CodeBlock[];
  /** How an instrument is made and used, with a view where the SDK needs one. */
  instrument: (contract: ContractBody) => CodeBlock[];
}

/** A text as a literal in double quotes, as all five languages read it. */
export function literal(text: string): string {
  return JSON.stringify(text);
}

/** A name for a variable: loan.extended becomes loanExtended. */
export function camel(name: string): string {
  const words = name.split(/[^A-Za-z0-9]+/).filter(Boolean);
  return (
    words.map((word, i) => (i === 0 ? word.toLowerCase() : word[0].toUpperCase() + word.slice(1))).join("") || "it"
  );
}

/** What stands for a value in the recording call: the first that is expected, else a placeholder. */
export function sample({ values }: ContractBody["attributes"][number]): string {
  return values[0] ?? "…";
}

export function isHistogram(kind: InstrumentKind): boolean {
  return kind === "histogram" || kind === "exponential histogram";
}

/** One of each kind. */
export type ByKind = Record<InstrumentKind, string>;

/** Runs a command as a process with an id of its own: without one, two processes would write the same series. */
export function withInstance(command: string): string {
  return `OTEL_RESOURCE_ATTRIBUTES="$OTEL_RESOURCE_ATTRIBUTES,service.instance.id=$(cat /proc/sys/kernel/random/uuid)" \\
  ${command}`;
}
