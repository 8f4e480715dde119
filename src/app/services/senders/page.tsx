import { Suspense } from "react";
import { SendersPage } from "@/ui/senders/sendersPage";

export default function Senders() {
  return (
    <Suspense>
      <SendersPage />
    </Suspense>
  );
}
