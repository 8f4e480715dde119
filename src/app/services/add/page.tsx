import { AddPage } from "@/ui/add/addPage";

export default function Add() {
  return <AddPage />;
}
