import { headOf } from "@/ui/frame/pages";
import { SheetsPage } from "@/ui/sheet/sheetsPage";

export const metadata = headOf("/sheets");

export default function Sheets() {
  return <SheetsPage />;
}
