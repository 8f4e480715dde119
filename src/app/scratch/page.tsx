import { Suspense } from "react";
import { ScratchPage } from "@/ui/scratch/scratchPage";

export default function Scratch() {
  return (
    <Suspense>
      <ScratchPage />
    </Suspense>
  );
}
