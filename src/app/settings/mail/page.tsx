import { headOf } from "@/ui/frame/pages";
import { MailPage } from "@/ui/settings/mailPage";

export const metadata = headOf("/settings/mail");

export default function Mail() {
  return <MailPage />;
}
