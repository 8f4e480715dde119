import { setTimeout as sleep } from "node:timers/promises";
import { Command, InvalidArgumentError, Option } from "commander";
import type { VerdictAnswer } from "@/core/api/releaseVerdict";
import { DURATIONS } from "@/core/window/lengths";
import { type KeyOptions, keyOf, keyOption } from "./key";
import { Pages } from "./pages";
import { say, UserError } from "./userError";

/**
 * `npx tin-ladder verdict`: a gate for deployments. It ends with 0 where nothing that it is to fail on is found and all is
 * told, with 2 where something is, and with 3 where there is not enough yet; with 1 where it could not be asked.
 */

const FAILS = ["slower", "more-errors"] as const;
type Fail = (typeof FAILS)[number];
const FOUND = 2;
const NOT_ENOUGH = 3;
/** How often it is asked again, ms. */
const AGAIN = 10_000;

interface Options extends KeyOptions {
  at: string;
  environment: string;
  against: string;
  wait: number;
  failOn: Fail[];
  json: boolean;
}

function length(text: string): number {
  const [, amount, unit] = /^(\d+(?:\.\d+)?)([a-z]+)$/.exec(text) ?? [];
  if (amount && Object.hasOwn(DURATIONS, unit)) return Number(amount) * DURATIONS[unit];
  throw new InvalidArgumentError("a length of time is expected, such as 90s, 15m or 1h.");
}

function fails(text: string): Fail[] {
  const names = text.split(",").map((name) => name.trim());
  const known = names.filter((name): name is Fail => (FAILS as readonly string[]).includes(name));
  if (known.length === names.length) return known;
  throw new InvalidArgumentError(`one or several of ${FAILS.join(", ")} are expected, with commas between them.`);
}

/** The code that a deployment is told; null while it is not enough to say. */
function codeOf({ latency, failures }: VerdictAnswer, failOn: readonly Fail[]): number | null {
  const asked = [
    ...(failOn.includes("slower") ? [latency] : []),
    ...(failOn.includes("more-errors") ? [failures] : []),
  ];
  if (asked.some((one) => one?.verdict === "worse")) return FOUND;
  return asked.every((one) => one !== null && one.verdict !== "not enough yet") ? 0 : null;
}

export function verdictCommand(): Command {
  return new Command("verdict")
    .description(
      "Says how a release does, for a deployment to wait for. Ends with 0 where all is well, 2 where it is not, 3 where there is not enough yet.",
    )
    .argument("<service>")
    .argument("<version>")
    .option("--environment <name>", "where it serves, as in deployment.environment.name", "")
    .option("--against <release>", "what it is held against; else as the team chose", "")
    .addOption(new Option("--wait <time>", "how long to wait for enough, such as 15m").argParser(length).default(0))
    .addOption(
      new Option("--fail-on <verdicts>", `what to end with 2 on: ${FAILS.join(", ")}`)
        .argParser(fails)
        .default([...FAILS]),
    )
    .option("--json", "print the whole answer", false)
    .addOption(new Option("--at <address>", "Tin Ladder's pages").env("TIN_ADDRESS").default("http://127.0.0.1:4300"))
    .addOption(keyOption("read"))
    .action(async (service: string, version: string, options: Options) => {
      const pages = new Pages(options.at, keyOf(options));
      const until = Date.now() + options.wait;
      const query = new URLSearchParams({ environment: options.environment, against: options.against });
      const place = `releases/${encodeURIComponent(service)}/${encodeURIComponent(version)}/verdict?${query}`;
      let told = "";
      for (;;) {
        const answer = await pages.ask<VerdictAnswer>("GET", place).catch(async (error: Error) => {
          // Who waits anyway waits for pages that are being started again, too.
          if (Date.now() >= until) throw error;
          return null;
        });
        if (!answer && Date.now() >= until)
          throw new UserError(
            `${service} ${version} was neither heard nor announced in ${options.environment || "an unnamed environment"} (--environment)`,
          );
        if (answer && answer.says !== told) {
          told = answer.says;
          if (!options.json) say(told);
        }
        const code = answer ? codeOf(answer, options.failOn) : null;
        if (code === null && Date.now() < until) {
          await sleep(Math.min(AGAIN, Math.max(0, until - Date.now())));
          continue;
        }
        if (options.json) process.stdout.write(`${JSON.stringify(answer)}\n`);
        process.exitCode = code ?? NOT_ENOUGH;
        return;
      }
    });
}
