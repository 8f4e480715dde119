import { headOf } from "@/ui/frame/pages";
import { HomePage } from "@/ui/home/homePage";

export const metadata = headOf("/");

export default function Home() {
  return <HomePage />;
}
