"use client";

import { type FormEvent, type InputHTMLAttributes, type ReactNode, useState } from "react";
import { copyText } from "./copy";
import { ProblemNote } from "./problemNote";

/** A line of a form: what is asked, where it goes, and a hint. */
export function Field({
  label,
  hint,
  ...input
}: { label: string; hint?: ReactNode } & Omit<InputHTMLAttributes<HTMLInputElement>, "className">) {
  const id = `${input.name}-hint`;
  return (
    <label className="mt-3 block">
      <span className="block text-[12.5px] text-muted">{label}</span>
      <input className="input w-full" required aria-describedby={hint ? id : undefined} {...input} />
      {hint && (
        <span id={id} className="mt-0.5 block text-[12.5px] text-muted">
          {hint}
        </span>
      )}
    </label>
  );
}

/** A form that sends its fields, shows that it is sent, and what is wrong with it. */
export function Form({
  send,
  button,
  quiet = false,
  children,
  className = "",
}: {
  /** Sends the fields by name. What it throws is shown. */
  send: (fields: Record<string, string>, form: HTMLFormElement) => Promise<void>;
  button: string;
  /** Whether it is one of several things to do on the page. */
  quiet?: boolean;
  children: ReactNode;
  className?: string;
}) {
  const [sending, setSending] = useState(false);
  const [problem, setProblem] = useState<unknown>(null);
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    setSending(true);
    setProblem(null);
    try {
      await send(Object.fromEntries(new FormData(form)) as Record<string, string>, form);
    } catch (error) {
      setProblem(error);
    } finally {
      setSending(false);
    }
  };
  return (
    // By no browser's own means would its fields stand in an address.
    <form method="post" onSubmit={submit} className={className}>
      {children}
      {problem !== null && (
        <div className="mt-3">
          <ProblemNote error={problem} />
        </div>
      )}
      <button type="submit" className={`btn mt-4 ${quiet ? "btn-sm" : "btn-primary"}`} disabled={sending}>
        {sending ? "One moment…" : button}
      </button>
    </form>
  );
}

/** A text to be copied: a link, a key, codes. */
export function Copied({ text, what }: { text: string; what: string }) {
  const [copied, setCopied] = useState<boolean | null>(null);
  return (
    <>
      <p className="num my-1 break-all whitespace-pre-wrap select-all">{text}</p>
      <button type="button" className="btn btn-sm" onClick={() => void copyText(text).then(setCopied)}>
        {copied ? "Copied" : `Copy ${what}`}
      </button>
      {copied === false && (
        <span className="ml-2 text-warning">This browser does not let pages copy: mark the text</span>
      )}
    </>
  );
}
