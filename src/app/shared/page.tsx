import { ChartScope } from "@/ui/chart/chartScope";
import { headOf } from "@/ui/frame/pages";
import { SharedPage } from "@/ui/sheet/sharedPage";

export const metadata = headOf("/shared");

export default function Shared() {
  return (
    <ChartScope>
      <SharedPage />
    </ChartScope>
  );
}
