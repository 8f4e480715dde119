import { headOf } from "@/ui/frame/pages";
import { PeoplePage } from "@/ui/settings/peoplePage";

export const metadata = headOf("/settings/people");

export default function People() {
  return <PeoplePage />;
}
