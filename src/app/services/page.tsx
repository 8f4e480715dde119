import { Suspense } from "react";
import { ServicesPage } from "@/ui/services/servicesPage";

export default function Services() {
  return (
    <Suspense>
      <ServicesPage />
    </Suspense>
  );
}
