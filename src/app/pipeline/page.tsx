import { Suspense } from "react";
import { PipelinePage } from "@/ui/pipeline/pipelinePage";

export default function Pipeline() {
  return (
    <Suspense>
      <PipelinePage />
    </Suspense>
  );
}
