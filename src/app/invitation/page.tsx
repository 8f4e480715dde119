import { InvitationPage } from "@/ui/entry/invitationPage";
import { headOf } from "@/ui/frame/pages";

export const metadata = headOf("/invitation");

export default function Invitation() {
  return <InvitationPage />;
}
