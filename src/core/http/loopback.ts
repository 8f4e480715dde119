/** Until there are accounts, only this machine may call: names that mean it in Host and Origin headers. */

const LOOPBACK = /^(localhost|127(?:\.\d{1,3}){3}|\[::1\])(:\d{1,5})?$/i;

/** Whether a Host header names this machine. A request without one is not from a browser and passes. */
export function isLoopbackHost(host: string | null | undefined): boolean {
  return host == null || LOOPBACK.test(host);
}

/** Whether an Origin header, where there is one, is a page of this machine. */
export function isLoopbackOrigin(origin: string | null | undefined): boolean {
  if (origin == null) return true;
  const match = /^https?:\/\/(.+)$/i.exec(origin);
  return match !== null && LOOPBACK.test(match[1]);
}
