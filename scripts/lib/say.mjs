/** Progress on the terminal, one line a step. */

export function step(text) {
  process.stdout.write(`• ${text}\n`);
}

/** Ends the script with a reason and a way out, without a stack. */
export class Stop extends Error {}

/** Runs a script's main function; a Stop is told in plain words. */
export async function main(run) {
  try {
    await run();
  } catch (error) {
    process.exitCode = 1;
    if (error instanceof Stop) process.stderr.write(`\n✗ ${error.message}\n`);
    else console.error(error);
  }
}
