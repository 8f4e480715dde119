import { Suspense } from "react";
import { StorePage } from "@/ui/store/storePage";

export default function Store() {
  return (
    <Suspense>
      <StorePage />
    </Suspense>
  );
}
