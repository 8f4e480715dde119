import { headOf } from "@/ui/frame/pages";
import { LadderPage } from "@/ui/ladder/ladderPage";

export const metadata = headOf("/releases");

export default function Releases() {
  return <LadderPage />;
}
