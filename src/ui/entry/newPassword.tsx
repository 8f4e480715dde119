"use client";

import { Field } from "../frame/form";

/** Where a new password is chosen. */
export function NewPassword({ autoFocus = false }: { autoFocus?: boolean }) {
  return (
    <Field
      name="password"
      type="password"
      label="new password"
      autoComplete="new-password"
      minLength={10}
      autoFocus={autoFocus}
      hint="At least ten characters. Four words that nobody would guess are easy to keep and hard to find."
    />
  );
}
