import { LookPage } from "@/ui/entry/lookPage";
import { headOf } from "@/ui/frame/pages";

export const metadata = headOf("/look");

export default function Look() {
  return <LookPage />;
}
