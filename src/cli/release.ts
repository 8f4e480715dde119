import { execFileSync } from "node:child_process";
import { Command, InvalidArgumentError, Option } from "commander";
import type { Announcement } from "@/core/api/releases";
import { type KeyOptions, keyOf, keyOption } from "./key";
import { Pages } from "./pages";
import { say } from "./userError";

/** `npx tin-ladder release`: announces a release, from a job that rolls it out. */

interface Options extends KeyOptions {
  at: string;
  environment: string;
  commit?: string;
  author?: string;
  notes?: string;
  link?: string;
  share?: number | null;
  time?: string;
}

/** "20%" or "0.2"; "none" for no intended share. */
function share(text: string): number | null {
  if (text === "none") return null;
  const value = text.endsWith("%") ? Number(text.slice(0, -1)) / 100 : Number(text);
  if (text.trim() !== "" && value >= 0 && value <= 1) return value;
  throw new InvalidArgumentError("a part of all traffic is expected, such as 20% or 0.2, or none.");
}

/** What the working copy says of itself, where it is one. */
function git(...args: string[]): string | undefined {
  try {
    return execFileSync("git", args, { encoding: "utf8", stdio: ["ignore", "pipe", "ignore"] }).trim() || undefined;
  } catch {
    return undefined;
  }
}

export function releaseCommand(): Command {
  return new Command("release")
    .description("Announces a release, before or after it is rolled out. The same again changes nothing.")
    .argument("<service>")
    .argument("<version>", "as the service reports it in service.version")
    .option("--environment <name>", "where it is rolled out, as in deployment.environment.name", "")
    .option("--share <part>", "the part of the traffic that it is meant to have: 20% or 0.2", share)
    .option("--commit <id>", "the commit; else that of the working copy")
    .option("--author <name>", "who made it; else who made that commit")
    .option("--notes <text>", "what changed")
    .option("--link <address>", "where more is said of it")
    .option("--time <time>", "when it is rolled out (RFC 3339); else now")
    .addOption(new Option("--at <address>", "Tin Ladder's pages").env("TIN_ADDRESS").default("http://127.0.0.1:4300"))
    .addOption(keyOption("announce"))
    .action(async (service: string, version: string, options: Options) => {
      const { environment, notes, link, share: meant, time } = options;
      const commit = options.commit ?? git("rev-parse", "--short=12", "HEAD");
      const author = options.author ?? git("log", "-1", "--format=%an");
      const body = { service, version, environment, commit, author, notes, link, share: meant, at: time };
      const pages = new Pages(options.at, keyOf(options));
      const told = await pages.ask<{ announcement: Announcement; changed: boolean }>("POST", "releases", body);
      say(`${service} ${version} ${told?.changed ? "is announced" : "was announced already, as it is"}`);
    });
}
