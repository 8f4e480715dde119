import { letIn } from "./asProgram";

/** Before a run: tells its system of the key that tests show. */
export default async function setUp(): Promise<void> {
  await letIn();
}
