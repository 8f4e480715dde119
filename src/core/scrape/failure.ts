import type { Failure, FailureCode } from "../api/targets";

/** What went wrong with a target, on its way to being told. `detail` says what exactly was seen. */
export class ScrapeError extends Error {
  override name = "ScrapeError";
  constructor(
    readonly code: FailureCode,
    detail: string,
  ) {
    super(detail);
  }
}

/** What each failure is called, and what to do about it. */
const WORDS: Record<FailureCode, { title: string; todo: string }> = {
  address: { title: "The address is not understood", todo: "Write it in full, such as http://localhost:9101/metrics." },
  forbidden: {
    title: "Not a network that may be scraped",
    todo: "Targets must lie on this machine or in a private network; TIN_SCRAPE_NETWORKS of the intake allows others.",
  },
  "unknown-host": {
    title: "No such host",
    todo: "Check the spelling of the host. A name inside a container network is only known inside it.",
  },
  refused: {
    title: "The connection was refused",
    todo: "Nothing listens there: is the service running, is the port right, does it listen on this address?",
  },
  timeout: {
    title: "No answer in time",
    todo: "Allow a longer timeout, or look at why it is slow: a firewall that drops packets looks the same.",
  },
  tls: {
    title: "TLS failed",
    todo: "Use http:// where the port has no TLS; else give the target a certificate that this machine trusts.",
  },
  connection: {
    title: "The connection broke",
    todo: "It was closed before an answer came. Where the port speaks TLS, the address begins with https://.",
  },
  unauthorized: {
    title: "It does not let us in",
    todo: "The token or password is missing or wrong: choose bearer token or basic auth and give the one it expects.",
  },
  "not-found": {
    title: "Nothing at this path",
    todo: "The host answers, so only the path is wrong: /metrics is usual; look into the service's documentation.",
  },
  status: { title: "It answered with an error", todo: "Look into the target's own log for what it did not like." },
  html: {
    title: "A web page came, not metrics",
    todo: "This is probably the port or path of a web console, or a page to sign in: find the one for metrics.",
  },
  "content-type": {
    title: "Not a format that is read here",
    todo: "OpenMetrics text (application/openmetrics-text) and its predecessor (text/plain; version=0.0.4) are read.",
  },
  parse: {
    title: "The text is not what it says it is",
    todo: "Mend the line at the target: one line that is not understood makes the rest untrustworthy.",
  },
  empty: {
    title: "It answered, but with no metric",
    todo: "Does the service register its metrics before it is asked? Is this the right path?",
  },
  "too-large": { title: "Too much text", todo: "More than 16 MiB came. Let the target expose less, or split it." },
  "too-many-series": {
    title: "More series than the limit",
    todo: "Choose fewer metrics below, or take the attribute with most values out at the target.",
  },
  pipeline: {
    title: "The pipeline does not run",
    todo: "Nothing is scraped past it. The detail says what is wrong; it is started again every few seconds.",
  },
  store: { title: "The points could not be written", todo: "The database was away; the next scrape writes again." },
};

/** A failure with its words. */
export function failureOf(code: FailureCode, detail: string): Failure {
  return { code, detail, ...WORDS[code] };
}

/** TLS failures by what Node's error codes begin with. */
const TLS = /^(ERR_TLS|ERR_SSL|CERT_|DEPTH_ZERO|SELF_SIGNED|UNABLE_TO|EPROTO|HOSTNAME_MISMATCH)/;

/** The failure that a broken connection stands for, by the error's code. */
export function connectionFailure(error: { code?: unknown; message: string }): ScrapeError {
  const code = String(error.code ?? "");
  if (code === "ECONNREFUSED") return new ScrapeError("refused", error.message);
  if (code === "ENOTFOUND" || code === "EAI_AGAIN" || code === "EAI_NODATA")
    return new ScrapeError("unknown-host", error.message);
  if (code === "ETIMEDOUT") return new ScrapeError("timeout", error.message);
  if (TLS.test(code)) return new ScrapeError("tls", error.message);
  return new ScrapeError("connection", error.message);
}
