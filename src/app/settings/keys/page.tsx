import { headOf } from "@/ui/frame/pages";
import { KeysPage } from "@/ui/settings/keysPage";

export const metadata = headOf("/settings/keys");

export default function Keys() {
  return <KeysPage />;
}
