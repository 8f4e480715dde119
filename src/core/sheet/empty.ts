import type { Sheet } from "./sheet";

export const EMPTY_SHEET: Sheet = { name: "", purpose: "", tags: [], readers: [], picks: [], bands: [] };
