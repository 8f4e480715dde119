"use client";

import { autoUpdate, flip, offset, shift, useFloating } from "@floating-ui/react-dom";
import { Command } from "cmdk";
import type { RefObject } from "react";
import { commandScore } from "./commandScore";
import { MAX_DRAWN, matchingOptions, type SlotOption } from "./slotOptions";

export interface SlotListProps {
  id: string;
  /** What the slot is. */
  name: string;
  options: readonly SlotOption[];
  placeholder: string;
  /** The slot that it belongs to. */
  slot: RefObject<HTMLElement | null>;
  /** What has been typed so far. */
  text: string;
  onText: (text: string) => void;
  /** Why what was typed cannot be taken as it is, null where it can be, undefined where nothing is offered to be taken. */
  refusal: string | null | undefined;
  onChoose: (value: string) => void;
  /** Something was entered that is not there, or not yet. */
  onEnter: (text: string) => void;
  onClose: () => void;
}

/** Who typed before the list was there goes on behind it. */
function goOnBehind(input: HTMLInputElement | null): void {
  input?.setSelectionRange(input.value.length, input.value.length);
}

/** What a slot may be changed to: found by typing, chosen by mouse or keys. */
export function SlotList(props: SlotListProps) {
  const { id, name, options, placeholder, slot, text, onText, refusal, onChoose, onEnter, onClose } = props;
  // Below what it changes where there is room, else above; never beyond the edge of the page.
  const { refs, floatingStyles } = useFloating({
    elements: { reference: slot.current },
    placement: "bottom-start",
    middleware: [offset(4), flip(), shift({ padding: 8 })],
    whileElementsMounted: autoUpdate,
  });
  const own = text.trim();
  const offersOwn = refusal !== undefined;
  // Of very many, those that are found are picked out here: drawing all of them would hold the page up.
  const many = options.length > MAX_DRAWN;
  const listed = many ? matchingOptions(options, own).slice(0, MAX_DRAWN) : options;

  return (
    <div
      id={id}
      ref={refs.setFloating}
      style={floatingStyles}
      className="plate z-40 w-72 p-1 text-left text-[13.5px] leading-snug font-normal shadow-lg"
    >
      <Command
        label={name}
        shouldFilter={!many}
        filter={commandScore}
        onKeyDown={(event) => {
          if (event.key === "Escape") {
            event.preventDefault();
            event.stopPropagation();
            onClose();
          }
          if (event.key === "Enter" && own !== "" && !offersOwn && matchingOptions(options, own).length === 0)
            onEnter(own);
        }}
      >
        <Command.Input
          ref={goOnBehind}
          autoFocus
          value={text}
          onValueChange={onText}
          placeholder={placeholder}
          className="input input-sm w-full font-mono text-[13px]"
        />
        <Command.List className="mt-1 max-h-64 overflow-y-auto">
          {!offersOwn && <Command.Empty className="px-2 py-1.5 text-muted">Nothing of that name</Command.Empty>}
          {listed.map((option) => (
            <Command.Item
              key={option.value}
              value={`${option.value} ${option.label ?? ""}`}
              onSelect={() => onChoose(option.value)}
              className="flex cursor-pointer items-baseline justify-between gap-3 rounded-sm px-2 py-1 data-[selected=true]:bg-primary data-[selected=true]:text-primary-content"
            >
              <span className="num break-all">{option.label ?? option.value}</span>
              {option.note && <span className="shrink-0 text-xs opacity-80">{option.note}</span>}
            </Command.Item>
          ))}
          {many && listed.length === MAX_DRAWN && (
            <p className="px-2 py-1 text-xs text-muted">The first {MAX_DRAWN}; a part of the name finds others.</p>
          )}
          {offersOwn && (
            <Command.Item
              value={own}
              disabled={refusal !== null}
              onSelect={() => onChoose(own)}
              className="cursor-pointer rounded-sm px-2 py-1 data-[disabled=true]:cursor-default data-[selected=true]:bg-primary data-[selected=true]:text-primary-content"
            >
              {refusal ?? `Use “${own}”`}
            </Command.Item>
          )}
        </Command.List>
      </Command>
    </div>
  );
}
