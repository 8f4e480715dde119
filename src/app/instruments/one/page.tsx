import { headOf } from "@/ui/frame/pages";
import { InstrumentPage } from "@/ui/instruments/instrumentPage";

export const metadata = headOf("/instruments/one");

export default function Instrument() {
  return <InstrumentPage />;
}
