import { headOf } from "@/ui/frame/pages";
import { ServicesPage } from "@/ui/services/servicesPage";

export const metadata = headOf("/services");

export default function Services() {
  return <ServicesPage />;
}
