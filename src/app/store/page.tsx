import { StorePage } from "@/ui/store/storePage";

export default function Store() {
  return <StorePage />;
}
