/** Addresses of calls: queries and paths as objects, and back. */

/** The query of an address as an object: what stands several times as a list, `pick.NAME` together under `picks`. */
export function queryObject(parameters: URLSearchParams): Record<string, unknown> {
  const found = new Map<string, string | string[]>();
  const picks = new Map<string, string[]>();
  for (const [key, value] of parameters) {
    if (key.startsWith("pick.")) {
      const name = key.slice(5);
      picks.set(name, [...(picks.get(name) ?? []), value]);
      continue;
    }
    const before = found.get(key);
    found.set(key, before === undefined ? value : [...(Array.isArray(before) ? before : [before]), value]);
  }
  const query = Object.fromEntries<unknown>(found);
  return picks.size > 0 ? { ...query, picks: Object.fromEntries(picks) } : query;
}

/** A value as it stands in an address. One that is an object stands there as JSON: it may have no text of its own. */
export function textInAddress(value: unknown): string {
  return typeof value === "object" && value !== null ? JSON.stringify(value) : String(value);
}

/** The query of an address from an object: the reverse of {@link queryObject}. */
export function queryText(query: Readonly<Record<string, unknown>>): string {
  const parameters = new URLSearchParams();
  for (const [key, value] of Object.entries(query)) {
    if (value === undefined || value === null) continue;
    if (key === "picks") {
      for (const [name, values] of Object.entries(value as Record<string, string[]>))
        for (const one of [values].flat()) parameters.append(`pick.${name}`, textInAddress(one));
    } else if (Array.isArray(value)) for (const one of value) parameters.append(key, textInAddress(one));
    else parameters.append(key, textInAddress(value));
  }
  return parameters.toString();
}

/** A path with its parameters filled in. */
export function filledPath(path: string, params: Readonly<Record<string, unknown>>): string {
  return path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(textInAddress(params[name])));
}
