import { Suspense } from "react";
import { TargetsPage } from "@/ui/senders/targetsPage";

export default function Targets() {
  return (
    <Suspense>
      <TargetsPage />
    </Suspense>
  );
}
