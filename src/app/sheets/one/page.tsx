import { ChartScope } from "@/ui/chart/chartScope";
import { headOf } from "@/ui/frame/pages";
import { SheetPage } from "@/ui/sheet/sheetPage";

export const metadata = headOf("/sheets/one");

export default function Sheet() {
  return (
    <ChartScope>
      <SheetPage />
    </ChartScope>
  );
}
