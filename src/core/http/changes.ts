/**
 * What a request that may change something has to bring, so that no page of another site can send it for somebody who has
 * Tin Ladder open: browsers say where a page comes from in `Origin` and `Sec-Fetch-Site` (Fetch, "Origin header"; Fetch
 * Metadata), and send media types other than those of forms only where they were allowed to before.
 */

/** Methods that change nothing. */
const SAFE = new Set(["GET", "HEAD", "OPTIONS"]);

/** Media types of bodies; no form can send them. */
const TAKEN = /^application\/(json|yaml)\s*(;|$)/i;

export interface Asked {
  method: string;
  host: string | null;
  origin: string | null;
  /** `Sec-Fetch-Site`, where a browser sent it. */
  site: string | null;
  contentType: string | null;
  /** Whether there is a body. */
  hasBody: boolean;
}

export interface Refused {
  status: 403 | 415;
  title: string;
  detail: string;
}

/** Why a request is refused for how it was sent; null where it is not. */
export function sentWrongly({ method, host, origin, site, contentType, hasBody }: Asked): Refused | null {
  if (SAFE.has(method)) return null;
  const elsewhere =
    (origin !== null && origin.replace(/^https?:\/\//i, "").toLowerCase() !== host?.toLowerCase()) ||
    (site !== null && site !== "same-origin" && site !== "none");
  if (elsewhere)
    return {
      status: 403,
      title: "Not from here",
      detail: "a page of another address may change nothing here; do it in Tin Ladder itself",
    };
  if (hasBody && !TAKEN.test(contentType ?? ""))
    return {
      status: 415,
      title: "Another kind of body",
      detail: "send it with Content-Type: application/json, or application/yaml for a file",
    };
  return null;
}
