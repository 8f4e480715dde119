import type { Attributes } from "../metric/model";
import { valueText } from "../metric/text";
import type { Warning } from "./result";
import type { SeriesTracks } from "./tracks";

const MAX_NAMED = 3;

/** The service that a series is of, for telling. */
function serviceOf(attributes: Attributes): string {
  return Object.hasOwn(attributes, "service.name") ? valueText(attributes["service.name"]) : "a service without a name";
}

function listed(names: ReadonlySet<string>): string {
  const all = [...names];
  const more = all.length - MAX_NAMED;
  return all.slice(0, MAX_NAMED).join(", ") + (more > 0 ? ` and ${more} more` : "");
}

/** What reading the series of a group brought to light of how they are written. */
export class Noticed {
  private readonly doubled = new Set<string>();
  private readonly unlike = new Set<string>();
  private writers = 1;

  add(attributes: Attributes, { writers, bucketsLost }: SeriesTracks): void {
    if (writers > 1) {
      this.doubled.add(serviceOf(attributes));
      this.writers = Math.max(this.writers, writers);
    }
    if (bucketsLost) this.unlike.add(serviceOf(attributes));
  }

  /** The same in words for the reader, each said once. */
  warn(metric: string, warnings: Warning[]): void {
    const say = (code: string, message: string) => {
      if (!warnings.some((one) => one.code === code)) warnings.push({ code, message });
    };
    if (this.doubled.size > 0)
      say(
        "two-writers",
        `${this.writers} processes of ${listed(this.doubled)} write the same series of ${metric} at the same time; each is counted by its own start. Give each process a service.instance.id of its own`,
      );
    if (this.unlike.size > 0)
      say(
        "bounds-changed",
        `the bucket bounds of ${metric} from ${listed(this.unlike)} changed while it ran, to ones that do not nest: what came in between is counted, but not to its bucket`,
      );
  }
}
