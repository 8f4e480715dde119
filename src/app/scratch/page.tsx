import { ScratchPage } from "@/ui/scratch/scratchPage";

export default function Scratch() {
  return <ScratchPage />;
}
