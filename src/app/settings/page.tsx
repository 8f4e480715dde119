import { headOf } from "@/ui/frame/pages";
import { AccountPage } from "@/ui/settings/accountPage";

export const metadata = headOf("/settings");

export default function Settings() {
  return <AccountPage />;
}
