"use client";

import { autoUpdate, flip, offset, shift, useFloating } from "@floating-ui/react-dom";
import { Command } from "cmdk";
import { type ReactNode, useEffect, useId, useRef, useState } from "react";

export interface SlotOption {
  value: string;
  label?: string;
  note?: string;
}

export interface SlotProps {
  /** What the slot is, for those who cannot see the sentence. */
  name: string;
  children: ReactNode;
  options: readonly SlotOption[];
  onChoose: (value: string) => void;
  /** Takes a value that is not among the options; returns why not, or null. */
  accept?: (text: string) => string | null;
  placeholder?: string;
  /** Whether it stays open when something is chosen, because several may be. */
  keepOpen?: boolean;
  /** On one line: the end of a long text is left out. */
  oneLine?: boolean;
}

/** Options that are drawn at once. */
const MANY = 200;

/** The options that have a text in them; those that begin with it come first. */
function found(options: readonly SlotOption[], text: string): SlotOption[] {
  const wanted = text.toLowerCase();
  const place = ({ value, label = "" }: SlotOption) => {
    const at = value.toLowerCase().indexOf(wanted);
    return at >= 0 ? at : label.toLowerCase().indexOf(wanted);
  };
  return options
    .map((option) => ({ option, at: place(option) }))
    .filter(({ at }) => at >= 0)
    .sort((a, b) => Number(a.at > 0) - Number(b.at > 0))
    .map(({ option }) => option);
}

/** A part of a sentence that is changed in place: a list to choose from, filtered by typing. */
export function Slot({ name, children, options, onChoose, accept, placeholder, keepOpen, oneLine }: SlotProps) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  /** What was entered before there was anything of that name: what is chosen from may still be on its way. */
  const [entered, setEntered] = useState<string | null>(null);
  const holder = useRef<HTMLSpanElement>(null);
  const button = useRef<HTMLButtonElement>(null);
  const id = useId();
  // Below what it changes where there is room, else above; never beyond the edge of the page.
  const { refs, floatingStyles } = useFloating({
    open,
    placement: "bottom-start",
    middleware: [offset(4), flip(), shift({ padding: 8 })],
    whileElementsMounted: autoUpdate,
  });

  useEffect(() => {
    if (!open) return;
    const outside = (event: PointerEvent) => {
      if (!holder.current?.contains(event.target as Node)) setOpen(false);
    };
    document.addEventListener("pointerdown", outside);
    return () => document.removeEventListener("pointerdown", outside);
  }, [open]);

  const close = () => {
    setOpen(false);
    setText("");
    setEntered(null);
    button.current?.focus();
  };
  const choose = (value: string) => {
    setEntered(null);
    if (keepOpen) setText("");
    else close();
    onChoose(value);
  };
  const chooseNow = useRef(choose);
  chooseNow.current = choose;
  const own = text.trim();
  // Of very many, those that are found are picked out here: drawing all of them would hold the page up.
  const many = options.length > MANY;
  const listed = many ? found(options, own).slice(0, MANY) : options;
  const offersOwn = accept !== undefined && own !== "" && !options.some(({ value }) => value === own);
  const refusal = offersOwn ? accept(own) : null;
  const awaited = open && entered !== null && entered === own ? found(options, own)[0] : undefined;
  useEffect(() => {
    if (awaited) chooseNow.current(awaited.value);
  }, [awaited]);

  return (
    <span ref={holder} className="relative inline-block max-w-full align-bottom">
      <button
        ref={(node) => {
          button.current = node;
          refs.setReference(node);
        }}
        type="button"
        className={oneLine ? "slot block max-w-full truncate" : "slot wrap-anywhere"}
        aria-haspopup="listbox"
        aria-expanded={open}
        aria-controls={open ? id : undefined}
        aria-label={`${name}: ${typeof children === "string" ? children : ""}`}
        onClick={() => setOpen(!open)}
      >
        {children}
      </button>
      {open && (
        <div
          id={id}
          ref={refs.setFloating}
          style={floatingStyles}
          className="plate z-40 w-72 p-1 text-left text-[13.5px] leading-snug font-normal shadow-lg"
        >
          <Command
            label={name}
            shouldFilter={!many}
            onKeyDown={(event) => {
              if (event.key === "Escape") {
                event.preventDefault();
                event.stopPropagation();
                close();
              }
              if (event.key === "Enter" && own !== "" && !offersOwn && found(options, own).length === 0)
                setEntered(own);
            }}
          >
            <Command.Input
              autoFocus
              value={text}
              onValueChange={setText}
              placeholder={placeholder ?? `Find ${name}`}
              className="input input-sm w-full font-mono text-[13px]"
            />
            <Command.List className="mt-1 max-h-64 overflow-y-auto">
              {!offersOwn && <Command.Empty className="px-2 py-1.5 text-muted">Nothing of that name</Command.Empty>}
              {listed.map((option) => (
                <Command.Item
                  key={option.value}
                  value={`${option.value} ${option.label ?? ""}`}
                  onSelect={() => choose(option.value)}
                  className="flex cursor-pointer items-baseline justify-between gap-3 rounded-sm px-2 py-1 data-[selected=true]:bg-primary data-[selected=true]:text-primary-content"
                >
                  <span className="num break-all">{option.label ?? option.value}</span>
                  {option.note && <span className="shrink-0 text-xs opacity-80">{option.note}</span>}
                </Command.Item>
              ))}
              {many && listed.length === MANY && (
                <p className="px-2 py-1 text-xs text-muted">The first {MANY}; a part of the name finds others.</p>
              )}
              {offersOwn && (
                <Command.Item
                  value={own}
                  disabled={refusal !== null}
                  onSelect={() => choose(own)}
                  className="cursor-pointer rounded-sm px-2 py-1 data-[disabled=true]:cursor-default data-[selected=true]:bg-primary data-[selected=true]:text-primary-content"
                >
                  {refusal ?? `Use “${own}”`}
                </Command.Item>
              )}
            </Command.List>
          </Command>
        </div>
      )}
    </span>
  );
}
