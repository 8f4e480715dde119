import { Suspense } from "react";
import { DefinePage } from "@/ui/instruments/definePage";

export default function Define() {
  return (
    <Suspense>
      <DefinePage />
    </Suspense>
  );
}
