import { ServicesPage } from "@/ui/services/servicesPage";

export default function Services() {
  return <ServicesPage />;
}
