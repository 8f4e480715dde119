import { ResetPage } from "@/ui/entry/resetPage";
import { headOf } from "@/ui/frame/pages";

export const metadata = headOf("/reset");

export default function Reset() {
  return <ResetPage />;
}
