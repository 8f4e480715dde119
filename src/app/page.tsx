import { headOf } from "@/ui/frame/pages";
import { HomePage } from "@/ui/home/homePage";

/** The frame's own page gets no title from its frame. */
export const metadata = { title: { absolute: `${headOf("/").title} · Tin Ladder` } };

export default function Home() {
  return <HomePage />;
}
