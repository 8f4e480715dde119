import NextLink from "next/link";
import type { ComponentProps } from "react";

/** A way to another page. Its code is not loaded before it is gone: a page may show hundreds of them. */
export default function Link(props: ComponentProps<typeof NextLink>) {
  return <NextLink prefetch={false} {...props} />;
}
