import { headOf } from "@/ui/frame/pages";
import { ScratchPage } from "@/ui/scratch/scratchPage";

export const metadata = headOf("/scratch");

export default function Scratch() {
  return <ScratchPage />;
}
