import { PipelinePage } from "@/ui/pipeline/pipelinePage";

export default function Pipeline() {
  return <PipelinePage />;
}
