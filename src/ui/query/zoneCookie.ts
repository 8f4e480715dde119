/** The cookie in which the browser tells its zone, for answers that come with the document. */
export const ZONE_COOKIE = "tin-zone";
