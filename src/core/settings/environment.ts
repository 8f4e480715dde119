import { SettingError, type SettingName, type SettingValue, settingIn, settingMistakes } from "./settings";

/** What a setting of this process says: nothing else reads the environment. @throws SettingError */
export function setting<K extends SettingName>(name: K): SettingValue<K> {
  return settingIn(name, process.env);
}

/** Whether the server builds while it serves. */
export function isDevelopment(): boolean {
  return process.env.NODE_ENV === "development";
}

/** Called when a program starts. @throws SettingError with all settings that cannot be used */
export function checkSettings(): void {
  const mistakes = settingMistakes(process.env);
  if (mistakes.length > 0) throw new SettingError(mistakes.join("; "));
}
