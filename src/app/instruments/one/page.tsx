import { Suspense } from "react";
import { InstrumentPage } from "@/ui/instruments/instrumentPage";

export default function Instrument() {
  return (
    <Suspense>
      <InstrumentPage />
    </Suspense>
  );
}
