"use client";

import { useState } from "react";

/** Text to copy, with a title. */
export function CodeBlock({ title, text }: { title: string; text: string }) {
  const [copied, setCopied] = useState(false);
  return (
    <section className="plate min-w-0 px-3 py-2">
      <h3 className="flex items-baseline justify-between gap-3 font-bold">
        {title}
        <button
          type="button"
          className="slot font-normal"
          aria-label={`copy: ${title}`}
          onClick={() => {
            void navigator.clipboard.writeText(text).then(() => {
              setCopied(true);
              setTimeout(() => setCopied(false), 2000);
            });
          }}
        >
          {copied ? "copied" : "copy"}
        </button>
      </h3>
      <pre className="num mt-1 overflow-x-auto text-[12.5px] leading-relaxed whitespace-pre-wrap break-words">
        {text}
      </pre>
    </section>
  );
}
