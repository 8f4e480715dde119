import { headOf } from "@/ui/frame/pages";
import { SendersPage } from "@/ui/senders/sendersPage";

export const metadata = headOf("/services/senders");

export default function Senders() {
  return <SendersPage />;
}
