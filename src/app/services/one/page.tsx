import { ServicePage } from "@/ui/services/servicePage";

export default function Service() {
  return <ServicePage />;
}
