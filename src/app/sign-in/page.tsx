import { SignInPage } from "@/ui/entry/signInPage";
import { headOf } from "@/ui/frame/pages";

export const metadata = headOf("/sign-in");

export default function SignIn() {
  return <SignInPage />;
}
