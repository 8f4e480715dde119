import { DefinePage } from "@/ui/instruments/definePage";

export default function Define() {
  return <DefinePage />;
}
