import { AddPage } from "@/ui/add/addPage";
import { headOf } from "@/ui/frame/pages";

export const metadata = headOf("/services/add");

export default function Add() {
  return <AddPage />;
}
