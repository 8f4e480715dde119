import { RANGES, wholeNumber } from "@/core/settings/environment";

/** A number of this process's environment. @throws SettingError */
export function setNumber(name: keyof typeof RANGES): number {
  return wholeNumber(name, RANGES[name], process.env);
}
