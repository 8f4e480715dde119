import { TargetsPage } from "@/ui/senders/targetsPage";

export default function Targets() {
  return <TargetsPage />;
}
