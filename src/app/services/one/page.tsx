import { headOf } from "@/ui/frame/pages";
import { ServicePage } from "@/ui/services/servicePage";

export const metadata = headOf("/services/one");

export default function Service() {
  return <ServicePage />;
}
