import { InstrumentPage } from "@/ui/instruments/instrumentPage";

export default function Instrument() {
  return <InstrumentPage />;
}
