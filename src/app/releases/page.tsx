import { LadderPage } from "@/ui/ladder/ladderPage";

export default function Releases() {
  return <LadderPage />;
}
