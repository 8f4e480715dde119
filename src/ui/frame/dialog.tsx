"use client";

import { type ReactNode, useEffect, useRef } from "react";

/** A dialog over the page; Escape or a click beside it closes it. */
export function Dialog({
  title,
  open,
  onClose,
  wide = false,
  children,
}: {
  title: string;
  open: boolean;
  onClose: () => void;
  wide?: boolean;
  children: ReactNode;
}) {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const element = dialog.current;
    if (!element) return;
    if (open && !element.open) {
      element.showModal();
      // A dialog gives the focus to its first part; what is typed belongs into its field.
      element.querySelector("input")?.focus();
    }
    if (!open && element.open) element.close();
  }, [open]);
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: Escape closes a dialog by itself
    <dialog
      ref={dialog}
      aria-label={title}
      onClose={onClose}
      onClick={(event) => {
        if (event.target === dialog.current) onClose();
      }}
      className={`plate m-auto ${wide ? "w-[46rem]" : "w-[30rem]"} max-w-[90vw] p-0 text-base-content backdrop:bg-neutral/30 dark:backdrop:bg-base-200/70`}
    >
      <div className="p-4">{open && children}</div>
    </dialog>
  );
}
