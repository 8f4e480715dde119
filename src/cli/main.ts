import { Command } from "commander";
import own from "../../package.json";
import { exportCommand } from "./export";
import { importCommand } from "./import";
import { releaseCommand } from "./release";
import { sendCommand } from "./send";
import { sheetsCommand } from "./sheets";
import { UserError } from "./userError";
import { verdictCommand } from "./verdict";

/** `npx tin-ladder`: points by hand, in bulk, and back out; sheets as files; releases and their verdicts. */

const program = new Command("tin-ladder")
  .description(
    "Sends points to Tin Ladder by hand, reads files of points in, writes them out, keeps sheets in files, announces releases, and waits for their verdicts.",
  )
  .version(own.version, "-v, --version", "says which version this is")
  .showHelpAfterError("(tin-ladder help shows what there is)")
  .addCommand(sendCommand())
  .addCommand(importCommand())
  .addCommand(exportCommand())
  .addCommand(sheetsCommand())
  .addCommand(releaseCommand())
  .addCommand(verdictCommand());

try {
  await program.parseAsync();
} catch (error) {
  if (!(error instanceof UserError)) throw error;
  process.stderr.write(`${error.message}\n`);
  process.exitCode = 1;
}
