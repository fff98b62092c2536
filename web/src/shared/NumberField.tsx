import { useState } from "react";
import { TextField } from "./controls.tsx";

/** Typed text of a number beside its value, so that "1." or "−" can stand while typing. */
export function NumberField({
  label,
  value,
  onChange,
  error,
  hint,
  decimals = 1,
  hideLabel = false,
  disabled = false,
}: {
  label: string;
  value: number | null;
  onChange: (v: number | null) => void;
  error?: string | undefined;
  hint?: string;
  /** how many stand when it is not being typed */
  decimals?: number;
  /** in a table, whose headings say what it is */
  hideLabel?: boolean;
  disabled?: boolean;
}) {
  const [text, setText] = useState<string | undefined>();
  const shown = text ?? (value === null ? "" : String(Number(value.toFixed(decimals))));
  const parsed = (t: string) => (t.trim() === "" ? null : Number(t.replace(",", ".").replace("−", "-")));
  const wrong = text !== undefined && Number.isNaN(parsed(text));
  return (
    <TextField
      label={label}
      hideLabel={hideLabel}
      disabled={disabled}
      inputMode="decimal"
      value={shown}
      hint={hint}
      error={wrong ? "A number, such as 41.5" : error}
      onChange={(e) => {
        setText(e.target.value);
        const n = parsed(e.target.value);
        if (n === null || Number.isFinite(n)) onChange(n);
      }}
      onBlur={() => !wrong && setText(undefined)}
    />
  );
}
