import { headOf } from "@/ui/frame/pages";
import { PipelinePage } from "@/ui/pipeline/pipelinePage";

export const metadata = headOf("/pipeline");

export default function Pipeline() {
  return <PipelinePage />;
}
