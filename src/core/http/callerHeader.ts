/** The header in which handlers learn where a caller is; set by our own proxy only. */
export const CALLER_HEADER = "x-tin-caller";
