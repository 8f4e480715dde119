import type { Work } from "../../service/work";
import type { LookName } from "../looks";

/**
 * What a ready sheet is: all that is worth asking of one kind of thing that a service does or runs on, by the names of the
 * OpenTelemetry semantic conventions. The pages of services show the same plates, those that are looked at as lines.
 *
 * In texts and titles stand, in braces: `{metric}`; `{where}`, the tests that keep it to a service; `{by}`, the attribute that
 * it is split by; `{slow}`, from when on work is slow.
 */
export interface ReadyPlate {
  title: string;
  /** One reading or several. */
  text: string | readonly string[];
  /** Metrics that answer it, the best first: the first that arrives is read. Missing: the metric of its band. */
  of?: readonly string[];
  /** An attribute without which it says nothing. */
  needs?: string;
  /** What it is split by: the first that the metric has; a plate whose metric has none of them is left out. */
  by?: readonly string[];
  /** How it is looked at; lines if missing. */
  as?: LookName;
  settings?: Readonly<Record<string, unknown>>;
  /** The form of its values; that which fits best if missing. */
  unit?: string;
  /** Figures behind the point; those that matter if missing. */
  decimals?: number;
}

export interface ReadyBand {
  title: string;
  /** The heading under which its plates stand on the page of a service; its title if missing. */
  section?: string;
  /** The kind of work whose bound for "slow" applies. */
  work?: Work;
  /** Metrics that its plates read, the best first. */
  of?: readonly string[];
  plates: readonly ReadyPlate[];
  /** Names of further metrics that belong here: each is asked what its kind is asked first. */
  others?: RegExp;
}

export interface ReadySheet {
  /** As it stands in addresses. */
  id: string;
  name: string;
  purpose: string;
  bands: readonly ReadyBand[];
}
