/** The header in which the layout learns which page is opened; set by our own proxy only. */
export const ADDRESS_HEADER = "x-tin-address";
