import { Suspense } from "react";
import { LadderPage } from "@/ui/ladder/ladderPage";

export default function Releases() {
  return (
    <Suspense>
      <LadderPage />
    </Suspense>
  );
}
