import { Suspense } from "react";
import { CataloguePage } from "@/ui/instruments/cataloguePage";

export default function Instruments() {
  return (
    <Suspense>
      <CataloguePage />
    </Suspense>
  );
}
