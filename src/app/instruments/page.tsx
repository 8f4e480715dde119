import { headOf } from "@/ui/frame/pages";
import { CataloguePage } from "@/ui/instruments/cataloguePage";

export const metadata = headOf("/instruments");

export default function Instruments() {
  return <CataloguePage />;
}
