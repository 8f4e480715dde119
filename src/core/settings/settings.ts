import { z } from "zod";
import { faultText } from "../schema/fault";
import declared from "./settings.json";

/**
 * The settings: what each variable of the environment says. One declaration a setting, in settings.json, from which
 * follow what programs and scripts read, the table of the README, and what is said of a value that cannot be used.
 */

type Declared = typeof declared;
export type SettingName = keyof Declared;

/** What a setting is read as: a number where it has a least and a most, else a text; null where it may be left unset. */
export type SettingValue<K extends SettingName> = Declared[K] extends { least: number }
  ? number
  : Declared[K] extends { default: string }
    ? string
    : string | null;

/** A setting as it is declared. */
export interface Setting {
  about: string;
  /** Of a number. */
  unit?: string;
  least?: number;
  most?: number;
  /** All that it may say. */
  choices?: readonly string[];
  /** What holds where it is not set. */
  default?: number | string;
  /** Whether its value is told to nobody. */
  secret?: boolean;
}

export const SETTINGS: Readonly<Record<SettingName, Setting>> = declared;

/** Settings that cannot be used. */
export class SettingError extends Error {
  override name = "SettingError";
}

type Environment = Readonly<Record<string, string | undefined>>;

/** What may stand in a setting, in words. */
function expected({ least, most, choices }: Setting): string {
  if (choices) return `one of ${choices.join(", ")} is expected`;
  return `a whole number from ${least} to ${most} is expected`;
}

function schemaOf(name: string, setting: Setting): z.ZodType {
  const { least, most, choices, secret } = setting;
  const mistake = {
    error: ({ input }: { input?: unknown }) =>
      `${name} is set to ${secret ? "something else" : `"${input}"`}; ${expected(setting)}`,
  };
  const text = z.string().trim();
  const whole = (value: string) => /^\d+$/.test(value) && Number(value) >= least! && Number(value) <= most!;
  const value =
    least !== undefined
      ? text.refine(whole, mistake).transform(Number)
      : choices
        ? text.refine((one) => choices.includes(one), mistake)
        : text;
  // What is set to nothing is not set.
  return z.preprocess(
    (input) => (typeof input === "string" && input.trim() === "" ? undefined : input),
    value.optional().transform((given) => given ?? setting.default ?? null),
  );
}

const schemas = Object.fromEntries(Object.entries(SETTINGS).map(([name, setting]) => [name, schemaOf(name, setting)]));

/**
 * What a setting says.
 *
 * @throws SettingError with the variable, what it says, and what it may say
 */
export function settingIn<K extends SettingName>(name: K, environment: Environment): SettingValue<K> {
  const read = schemas[name].safeParse(environment[name]);
  if (!read.success) throw new SettingError(faultText(read.error.issues[0].message));
  return read.data as SettingValue<K>;
}

/** What is wrong with the settings of an environment, a sentence each. */
export function settingMistakes(environment: Environment): string[] {
  return Object.entries(schemas).flatMap(([name, schema]) => {
    const read = schema.safeParse(environment[name]);
    return read.success ? [] : [faultText(read.error.issues[0].message)];
  });
}
