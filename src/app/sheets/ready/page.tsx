import { HoverScope } from "@/ui/chart/pointing/hover";
import { headOf } from "@/ui/frame/pages";
import { ReadyPage } from "@/ui/sheet/readyPage";

export const metadata = headOf("/sheets/ready");

export default function Ready() {
  return (
    <HoverScope>
      <ReadyPage />
    </HoverScope>
  );
}
