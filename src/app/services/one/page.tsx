import { Suspense } from "react";
import { ServicePage } from "@/ui/services/servicePage";

export default function Service() {
  return (
    <Suspense>
      <ServicePage />
    </Suspense>
  );
}
