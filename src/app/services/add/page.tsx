import { Suspense } from "react";
import { AddPage } from "@/ui/add/addPage";

export default function Add() {
  return (
    <Suspense>
      <AddPage />
    </Suspense>
  );
}
