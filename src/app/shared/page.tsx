import { HoverScope } from "@/ui/chart/pointing/hover";
import { headOf } from "@/ui/frame/pages";
import { SharedPage } from "@/ui/sheet/sharedPage";

export const metadata = headOf("/shared");

export default function Shared() {
  return (
    <HoverScope>
      <SharedPage />
    </HoverScope>
  );
}
