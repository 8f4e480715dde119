import { SendersPage } from "@/ui/senders/sendersPage";

export default function Senders() {
  return <SendersPage />;
}
