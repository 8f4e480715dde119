/** Histograms of calls in the order in which a ladder prefers them (semantic conventions for servers and consumers). */
const CALL_METRICS = [
  "http.server.request.duration",
  "rpc.server.call.duration",
  "rpc.server.duration",
  "messaging.process.duration",
];

interface Named {
  name: string;
  unit: string;
}

const rank = ({ name, unit }: Named): number => {
  const place = CALL_METRICS.indexOf(name);
  return place >= 0 ? place : unit === "s" || unit === "ms" ? 100 : 200;
};

/** Histograms of a service in order: the one that is best for a ladder first. */
export function bestForLadder<T extends Named>(histograms: readonly T[]): T[] {
  return [...histograms].sort((a, b) => rank(a) - rank(b) || (a.name < b.name ? -1 : 1));
}

/** Which calls count as failed (semantic conventions: error.type is set on failures; HTTP 5xx are the server's). */
export function failedCondition(metric: string): string {
  return metric.startsWith("http.server.")
    ? "http.response.status_code >= 500 or error.type is there"
    : "error.type is there";
}
