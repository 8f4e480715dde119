import { headOf } from "@/ui/frame/pages";
import { TargetsPage } from "@/ui/senders/targetsPage";

export const metadata = headOf("/services/targets");

export default function Targets() {
  return <TargetsPage />;
}
