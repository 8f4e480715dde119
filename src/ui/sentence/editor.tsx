"use client";

import {
  acceptCompletion,
  autocompletion,
  type Completion,
  type CompletionContext,
  type CompletionResult,
  completionKeymap,
} from "@codemirror/autocomplete";
import { type Diagnostic, linter } from "@codemirror/lint";
import { EditorState, Prec } from "@codemirror/state";
import { EditorView, keymap } from "@codemirror/view";
import CodeMirror, { type ReactCodeMirrorRef } from "@uiw/react-codemirror";
import { useEffect, useMemo, useRef } from "react";
import type { AttributeEntry, MetricEntry } from "@/core/api/instruments";
import { AGGREGATIONS } from "@/core/reading/aggregations";
import { lex } from "@/core/reading/language/lex";
import { parseReading } from "@/core/reading/language/parse";
import { attributeText, metricText, quoteText } from "@/core/reading/language/quote";
import { ReadingError, shortAttribute } from "@/core/reading/language/tree";
import { ask } from "../query/api";

const AGGREGATION_COMPLETIONS: Completion[] = AGGREGATIONS.flatMap(({ begins }) => begins).map((label) => ({
  label,
  type: "keyword",
  apply: `${label} `,
}));
const CLAUSES: Completion[] = ["where", "by", "over", "every", "that", "top", "bottom", "shifted"].map((label) => ({
  label,
  type: "keyword",
  apply: `${label} `,
}));
const TESTS: Completion[] = [
  "is",
  "is not",
  "is one of",
  "contains",
  "starts with",
  "ends with",
  "matches",
  "is there",
  "is missing",
].map((label) => ({ label, type: "keyword", apply: `${label} ` }));

type Wanted =
  | { what: "aggregation" | "metric" | "attribute" | "test" | "clause" }
  | { what: "value"; attribute: string };

/** What could come at the end of a text, from its last words. */
export function wantedAfter(before: string): Wanted {
  let words: string[];
  try {
    words = lex(before)
      .filter(({ kind }) => kind !== "end")
      .map(({ text }) => text);
  } catch {
    words = before.trim().split(/\s+/);
  }
  const last = words[words.length - 1] ?? "";
  if (words.length === 0 || ["+", "-", "*", "/", "("].includes(last)) return { what: "aggregation" };
  if (last === "of" && words[words.length - 2] !== "one") return { what: "metric" };
  if (["where", "that", "by", "and", "or"].includes(last)) return { what: "attribute" };
  if (last === "," && words.lastIndexOf("by") > words.lastIndexOf("where")) return { what: "attribute" };
  if (["is", "not", "contains", "with", "matches"].includes(last)) {
    const place = words.findLastIndex((word) => ["where", "that", "and", "or"].includes(word));
    return { what: "value", attribute: words[place + 1] ?? "" };
  }
  if (["where", "that", "and", "or"].includes(words[words.length - 2] ?? "")) return { what: "test" };
  return { what: "clause" };
}

/** The metric that the text before a place speaks of. */
function metricIn(before: string): string {
  return (
    /\bof\s+("([^"]*)"|[^\s"]+)(?!.*\bof\s)/s.exec(before)?.slice(1).reverse().find(Boolean)?.replace(/"/g, "") ?? ""
  );
}

const attributesKept = new Map<string, Promise<AttributeEntry[]>>();

function attributesOf(metric: string): Promise<AttributeEntry[]> {
  let found = attributesKept.get(metric);
  if (!found) {
    found = ask("GET /api/catalogue/attributes", { query: { metric } }).then(
      ({ attributes }) => attributes,
      () => [],
    );
    attributesKept.set(metric, found);
    setTimeout(() => attributesKept.delete(metric), 20_000);
  }
  return found;
}

function completer(metrics: readonly MetricEntry[]) {
  return async (context: CompletionContext): Promise<CompletionResult | null> => {
    const word = context.matchBefore(/[\p{L}\p{N}_./-]*$/u);
    const quote = context.matchBefore(/"[^"]*$/);
    const from = quote ? quote.from : (word?.from ?? context.pos);
    const before = context.state.sliceDoc(0, from);
    const wanted = wantedAfter(before);
    if (!context.explicit && context.pos === from && !/\s$/.test(before)) return null;
    switch (wanted.what) {
      case "aggregation":
        return { from, options: AGGREGATION_COMPLETIONS, validFor: /^[\w ]*$/ };
      case "metric":
        return {
          from,
          options: metrics.map(({ name, unit, kind }) => ({
            label: name,
            detail: unit || kind,
            apply: `${metricText(name)} `,
          })),
          validFor: /^[\p{L}\p{N}_./-]*$/u,
        };
      case "attribute":
        return {
          from,
          options: (await attributesOf(metricIn(before))).map(({ name, values }) => ({
            label: attributeText(name),
            detail: `${values.length === 100 ? "100 or more" : values.length} ${values.length === 1 ? "value" : "values"}`,
            apply: `${attributeText(name)} `,
          })),
          validFor: /^[\p{L}\p{N}_./-]*$/u,
        };
      case "value": {
        const all = await attributesOf(metricIn(before));
        const values =
          all.find(({ name }) => name === wanted.attribute || shortAttribute(name) === wanted.attribute)?.values ?? [];
        return {
          from,
          options: values.map((value) => ({ label: quoteText(value), apply: `${quoteText(value)} ` })),
          validFor: /^"[^"]*"?$/,
        };
      }
      case "test":
        return { from, options: TESTS, validFor: /^[\w ]*$/ };
      default:
        return { from, options: CLAUSES, validFor: /^\w*$/ };
    }
  };
}

/** Errors of the grammar at their place, while typing. */
const check = linter(
  (view): Diagnostic[] => {
    const text = view.state.doc.toString();
    if (text.trim() === "") return [];
    try {
      parseReading(text);
      return [];
    } catch (error) {
      if (!(error instanceof ReadingError)) throw error;
      const from = Math.min(error.position, text.length);
      return [
        {
          from,
          to: Math.min(text.length, from + error.length),
          severity: "error",
          message: error.hint ? `${error.message} — ${error.hint}` : error.message,
        },
      ];
    }
  },
  { delay: 350 },
);

const look = EditorView.theme({
  "&": { fontSize: "14px", backgroundColor: "transparent", color: "var(--color-base-content)" },
  "&.cm-focused": { outline: "none" },
  ".cm-content": { fontFamily: "var(--font-mono)", padding: "8px 4px", caretColor: "var(--color-primary)" },
  ".cm-cursor": { borderLeftColor: "var(--color-primary)", borderLeftWidth: "2px" },
  ".cm-tooltip": {
    backgroundColor: "var(--color-base-100)",
    border: "1px solid var(--color-base-300)",
    color: "var(--color-base-content)",
  },
  ".cm-tooltip-autocomplete > ul": { fontFamily: "var(--font-mono)", fontSize: "12.5px" },
  ".cm-tooltip-autocomplete > ul > li[aria-selected]": {
    backgroundColor: "var(--color-primary)",
    color: "var(--color-primary-content)",
  },
  ".cm-completionDetail": { fontFamily: "var(--font-sans)", fontStyle: "normal", opacity: "0.75" },
  ".cm-completionIcon": { display: "none" },
});

/** A reading as text: Enter asks, typing completes names, errors stand at their place. */
export function ReadingEditor({
  text,
  onChange,
  onAsk,
  metrics,
  focusKey,
}: {
  text: string;
  onChange: (text: string) => void;
  onAsk: (text: string) => void;
  metrics: readonly MetricEntry[];
  focusKey: number;
}) {
  const editor = useRef<ReactCodeMirrorRef>(null);
  const ask = useRef(onAsk);
  ask.current = onAsk;
  useEffect(() => {
    if (focusKey > 0) editor.current?.view?.focus();
  }, [focusKey]);
  const extensions = useMemo(
    () => [
      look,
      check,
      EditorView.lineWrapping,
      EditorView.contentAttributes.of({ "aria-label": "Reading" }),
      // A reading is one line: pasted line breaks become blanks.
      EditorState.transactionFilter.of((change) =>
        change.newDoc.lines > 1
          ? [
              change,
              {
                changes: {
                  from: 0,
                  to: change.newDoc.length,
                  insert: change.newDoc.toString().replace(/\s*\n\s*/g, " "),
                },
                sequential: true,
              },
            ]
          : change,
      ),
      autocompletion({ override: [completer(metrics)], activateOnTyping: true, icons: false, interactionDelay: 0 }),
      keymap.of(completionKeymap),
      Prec.high(
        keymap.of([
          {
            key: "Enter",
            run: (view) => {
              if (acceptCompletion(view)) return true;
              ask.current(view.state.doc.toString());
              return true;
            },
          },
          {
            key: "Escape",
            run: (view) => {
              if (view.dom.querySelector(".cm-tooltip-autocomplete")) return false;
              view.contentDOM.blur();
              return true;
            },
          },
        ]),
      ),
    ],
    [metrics],
  );
  return (
    <CodeMirror
      ref={editor}
      value={text}
      onChange={onChange}
      extensions={extensions}
      basicSetup={false}
      theme="none"
      className="min-w-0 flex-1"
    />
  );
}
