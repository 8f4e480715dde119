"use client";

import Markdown from "react-markdown";
import rehypeSanitize from "rehype-sanitize";
import remarkGfm from "remark-gfm";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";

/** A note in Markdown. Links to pages of ours carry the window along. */
export default function Note({ text }: { text: string }) {
  const carried = useCarried();
  return (
    <div className="note text-[13.5px] leading-relaxed">
      <Markdown
        remarkPlugins={[remarkGfm]}
        rehypePlugins={[rehypeSanitize]}
        components={{
          a: ({ href = "", children }) =>
            href.startsWith("/") && !href.startsWith("//") ? (
              <Link href={withWindow(href, carried)} className="slot">
                {children}
              </Link>
            ) : (
              <a href={href} className="slot" target="_blank" rel="noreferrer noopener">
                {children}
              </a>
            ),
          // Nothing is fetched from elsewhere because a note says so.
          img: ({ alt }) => <span className="text-muted">{alt}</span>,
        }}
      >
        {text}
      </Markdown>
    </div>
  );
}

/** An address with the window of the page, unless it has one of its own. */
function withWindow(href: string, carried: string): string {
  const [path, query = ""] = href.split("?");
  const parameters = new URLSearchParams(query);
  if (["last", "from", "to"].some((name) => parameters.has(name))) return href;
  for (const [name, value] of new URLSearchParams(carried)) if (!parameters.has(name)) parameters.set(name, value);
  const text = parameters.toString();
  return text === "" ? path : `${path}?${text}`;
}
