import { headOf } from "@/ui/frame/pages";
import { RecordPage } from "@/ui/settings/recordPage";

export const metadata = headOf("/settings/record");

export default function TheRecord() {
  return <RecordPage />;
}
