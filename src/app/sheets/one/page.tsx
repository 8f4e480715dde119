import { HoverScope } from "@/ui/chart/pointing/hover";
import { headOf } from "@/ui/frame/pages";
import { SheetPage } from "@/ui/sheet/sheetPage";

export const metadata = headOf("/sheets/one");

export default function Sheet() {
  return (
    <HoverScope>
      <SheetPage />
    </HoverScope>
  );
}
