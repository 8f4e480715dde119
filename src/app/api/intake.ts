import { setting } from "@/core/settings/environment";
import { houseKey } from "@/store/database/secrets";
import { Refusal } from "./serve";

/** Asks the intake something for a page. @throws Refusal with what it answered, or that it does not */
export async function askIntake(path: string, question: object, title: string): Promise<unknown> {
  const intake = `http://127.0.0.1:${setting("TIN_INTAKE_PORT")}${path}`;
  let answer: Response;
  try {
    answer = await fetch(intake, {
      method: "POST",
      headers: { "Content-Type": "application/json", "X-Tin-Key": houseKey() },
      body: JSON.stringify(question),
    });
  } catch {
    throw new Refusal(503, {
      title: "The intake does not answer",
      detail: `this is done by the intake, which should listen on ${intake}; is it running?`,
    });
  }
  const body = (await answer.json().catch(() => ({}))) as { message?: string };
  if (answer.ok) return body;
  throw new Refusal(answer.status, { title, detail: body.message ?? `the intake answered ${answer.status}` });
}
