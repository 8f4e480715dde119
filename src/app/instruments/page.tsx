import { CataloguePage } from "@/ui/instruments/cataloguePage";

export default function Instruments() {
  return <CataloguePage />;
}
