/** An origin that is nobody's: what it is kept from shows that an address leads elsewhere. */
const HERE = "http://here.invalid";

/** The page of ours that an address names, as path, query and fragment; "/" where it leads elsewhere or is none (WHATWG URL). */
export function ownPage(address: string | null): string {
  if (address === null || !address.startsWith("/")) return "/";
  let url: URL;
  try {
    url = new URL(address, HERE);
  } catch {
    return "/";
  }
  if (url.origin !== HERE || url.username !== "") return "/";
  const page = url.pathname + url.search + url.hash;
  // A path that begins with two slashes would be another host once it is followed.
  return /^\/[/\\]/.test(page) ? "/" : page;
}
