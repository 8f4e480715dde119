/** What browsers are told of every answer, so that nothing of a page of ours can be used by another's. */

/** The header in which our proxy tells the layout which inline scripts are ours. */
export const NONCE_HEADER = "x-nonce";

/**
 * What a document may load (Content Security Policy, level 3): files from here, and of what stands in
 * the document the scripts that bear this answer's nonce. Styles may stand in the document, because charts place their parts by them.
 *
 * @param development whether the server builds while it serves, and evaluates what it built
 * @param framers origins whose pages may show it in a frame
 */
export function documentPolicy(nonce: string, development: boolean, framers: readonly string[] = []): string {
  return [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}'${development ? " 'unsafe-eval'" : ""}`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data:",
    "font-src 'self'",
    "connect-src 'self'",
    "worker-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    `frame-ancestors ${framers.length > 0 ? framers.join(" ") : "'none'"}`,
  ].join("; ");
}

/** What a script that is a worker may load: what is here. */
export const SCRIPT_POLICY = "default-src 'self'; object-src 'none'; frame-ancestors 'none'";

/** What answers of the API may load: nothing. */
export const ANSWER_POLICY = "default-src 'none'; frame-ancestors 'none'";

/** Where we are served over TLS: nothing else for a year (RFC 6797). */
const TRANSPORT_POLICY = "max-age=31536000";

/** Of every answer. */
const COMMON_HEADERS: Readonly<Record<string, string>> = {
  "X-Content-Type-Options": "nosniff",
  "X-Frame-Options": "DENY",
  "Referrer-Policy": "same-origin",
  "Permissions-Policy": "camera=(), display-capture=(), geolocation=(), microphone=(), payment=(), usb=()",
  "Cross-Origin-Opener-Policy": "same-origin",
  "Cross-Origin-Resource-Policy": "same-origin",
};

/**
 * The headers of an answer.
 *
 * @param policy what it may load
 * @param ours the address under which we are served to others; null where there is none
 */
export function answerHeaders(policy: string, ours: string | null): Record<string, string> {
  return {
    ...COMMON_HEADERS,
    "Content-Security-Policy": policy,
    ...(ours?.startsWith("https:") && { "Strict-Transport-Security": TRANSPORT_POLICY }),
  };
}
