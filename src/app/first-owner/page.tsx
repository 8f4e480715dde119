import { FirstOwnerPage } from "@/ui/entry/firstOwnerPage";
import { headOf } from "@/ui/frame/pages";

export const metadata = headOf("/first-owner");

export default function FirstOwner() {
  return <FirstOwnerPage />;
}
