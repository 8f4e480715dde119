"use client";

import { type CSSProperties, type ReactNode, useEffect, useId, useRef, useState } from "react";
import { matchingOptions, type SlotOption } from "./slotOptions";
import { useSlotList } from "./useSlotList";

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

/** Room that what stands for a list takes, px. */
const WIDTH = 288;
const EDGE = 8;

/** Where it stands until the list itself finds its place: beside the slot, on the screen whatever has to scroll. */
function beside(slot: HTMLElement | null): CSSProperties {
  if (!slot) return {};
  const { left, top, bottom } = slot.getBoundingClientRect();
  const across = { width: WIDTH, left: Math.max(EDGE, Math.min(left, innerWidth - WIDTH - EDGE)) };
  return top > innerHeight / 2 ? { ...across, bottom: innerHeight - top + 4 } : { ...across, top: bottom + 4 };
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
  const List = useSlotList(open);

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
  const offersOwn = accept !== undefined && own !== "" && !options.some(({ value }) => value === own);
  const refusal = offersOwn ? accept(own) : undefined;
  const awaited = open && entered !== null && entered === own ? matchingOptions(options, own)[0] : undefined;
  useEffect(() => {
    if (awaited) chooseNow.current(awaited.value);
  }, [awaited]);

  return (
    <span ref={holder} className="relative inline-block max-w-full align-bottom">
      <button
        ref={button}
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
      {open &&
        (List === null || List === "unavailable" ? (
          <div
            id={id}
            style={beside(button.current)}
            className="plate fixed z-40 p-1 text-left text-[13.5px] leading-snug font-normal shadow-lg"
          >
            {/* What is typed meanwhile is not lost: the list goes on with it. */}
            <input
              // biome-ignore lint/a11y/noAutofocus: who opened the slot goes on typing
              autoFocus
              aria-label={name}
              value={text}
              onChange={(event) => setText(event.target.value)}
              onKeyDown={(event) => {
                if (event.key === "Escape") {
                  event.preventDefault();
                  event.stopPropagation();
                  close();
                }
                if (event.key !== "Enter" || own === "") return;
                event.preventDefault();
                if (refusal === null && matchingOptions(options, own).length === 0) choose(own);
                else setEntered(own);
              }}
              placeholder={placeholder ?? `Find ${name}`}
              className="input input-sm w-full font-mono text-[13px]"
            />
            <p role="status" className="px-2 py-1.5 text-muted">
              {refusal ??
                (List === null
                  ? "The list is coming."
                  : "The list could not be loaded; what you enter here is taken all the same.")}
            </p>
          </div>
        ) : (
          <List
            id={id}
            name={name}
            options={options}
            placeholder={placeholder ?? `Find ${name}`}
            slot={button}
            text={text}
            onText={setText}
            refusal={refusal}
            onChoose={choose}
            onEnter={setEntered}
            onClose={close}
          />
        ))}
    </span>
  );
}
