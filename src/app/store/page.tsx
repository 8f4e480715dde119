import { headOf } from "@/ui/frame/pages";
import { StorePage } from "@/ui/store/storePage";

export const metadata = headOf("/store");

export default function Store() {
  return <StorePage />;
}
