/** Every table that Drizzle knows, by family. */
export * from "./access";
export * from "./contracts";
export * from "./exports";
export * from "./people";
export * from "./pipeline";
export * from "./registry";
export * from "./releases";
export * from "./senders";
export * from "./sheets";
export * from "./summary";
export * from "./upkeep";
