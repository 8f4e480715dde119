"use client";

import { useState } from "react";
import { copyText } from "./copy";

/** Text to copy, with a title. */
export function CodeBlock({ title, text }: { title: string; text: string }) {
  const [copied, setCopied] = useState<boolean | null>(null);
  return (
    <section className="plate min-w-0 px-3 py-2">
      <h3 className="flex items-baseline justify-between gap-3 font-bold">
        {title}
        <button
          type="button"
          className="slot font-normal"
          aria-label={`copy: ${title}`}
          onClick={() => {
            void copyText(text).then((done) => {
              setCopied(done);
              setTimeout(() => setCopied(null), done ? 2000 : 6000);
            });
          }}
        >
          {copied === null ? "copy" : copied ? "copied" : "this browser does not let pages copy: mark the text"}
        </button>
      </h3>
      <pre className="num mt-1 overflow-x-auto text-[12.5px] leading-relaxed whitespace-pre-wrap break-words">
        {text}
      </pre>
    </section>
  );
}
