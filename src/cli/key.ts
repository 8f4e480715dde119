import { readFileSync, statSync } from "node:fs";
import { Option } from "commander";
import { setting } from "@/core/settings/environment";
import { UserError } from "./userError";

/** The key that the command shows: never an argument, which everybody on the machine can list. */

export interface KeyOptions {
  keyFile: string;
}

/** @param use what the key is for, in a word */
export function keyOption(use: string): Option {
  return new Option(`--key-file <file>`, `a file with a key to ${use} that nobody else can read; else TIN_KEY`).default(
    "",
  );
}

/** The key, or "" for none. @throws UserError where its file cannot be read, or others can */
export function keyOf({ keyFile }: KeyOptions): string {
  if (keyFile === "") return setting("TIN_KEY") ?? "";
  try {
    if ((statSync(keyFile).mode & 0o077) !== 0)
      throw new UserError(`${keyFile} can be read by others: chmod 600 ${keyFile}`);
    return readFileSync(keyFile, "utf8").trim();
  } catch (error) {
    if (error instanceof UserError) throw error;
    throw new UserError(`${keyFile} cannot be read: ${(error as Error).message}`);
  }
}

/** The head that shows a key. */
export function asBearer(key: string): Record<string, string> {
  return key === "" ? {} : { Authorization: `Bearer ${key}` };
}
