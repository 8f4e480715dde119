import { createTransport } from "nodemailer";
import { setting } from "@/core/settings/environment";

/** Mail, where TIN_SMTP_URL says to whom it is handed in. */

export function canMail(): boolean {
  return setting("TIN_SMTP_URL") !== null;
}

const PATIENCE = 10_000;

/** Hands a message in. @returns whether it was taken; where it was not, the link in it has to go another way */
export async function sendMail(to: string, subject: string, text: string): Promise<boolean> {
  const url = setting("TIN_SMTP_URL");
  if (url === null) return false;
  const transport = createTransport(url, {
    connectionTimeout: PATIENCE,
    greetingTimeout: PATIENCE,
    socketTimeout: PATIENCE,
  } as object);
  try {
    await transport.sendMail({ from: setting("TIN_MAIL_FROM"), to, subject, text });
    return true;
  } catch {
    return false;
  } finally {
    transport.close();
  }
}
