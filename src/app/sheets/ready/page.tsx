import { ChartScope } from "@/ui/chart/chartScope";
import { headOf } from "@/ui/frame/pages";
import { ReadyPage } from "@/ui/sheet/readyPage";

export const metadata = headOf("/sheets/ready");

export default function Ready() {
  return (
    <ChartScope>
      <ReadyPage />
    </ChartScope>
  );
}
