import { slowBounds } from "@/core/api/services";
import { DEFAULT_SLOW } from "@/core/service/work";

/** The setting that says from when on work is slow. */
export const SLOW = { name: "slow", schema: slowBounds, usual: DEFAULT_SLOW };
