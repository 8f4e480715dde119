import { ComparePage } from "@/ui/compare/comparePage";
import { headOf } from "@/ui/frame/pages";

export const metadata = headOf("/releases/two");

export default function TwoReleases() {
  return <ComparePage />;
}
