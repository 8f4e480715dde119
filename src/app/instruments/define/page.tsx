import { headOf } from "@/ui/frame/pages";
import { DefinePage } from "@/ui/instruments/definePage";

export const metadata = headOf("/instruments/define");

export default function Define() {
  return <DefinePage />;
}
