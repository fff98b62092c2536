import { useState } from "react";
import { SelectField, TextArea, TextField } from "../shared/controls.tsx";
import { type Draft, valueAt } from "./edit-model.ts";
import { parseField, showField } from "./field-text.ts";
import type { FieldSpec } from "./sections.ts";

/** One field of a draft, typed as its kind asks, with what is wrong with it below. */
export function EditField({
  spec,
  base,
  draft,
  onChange,
  problems,
}: {
  spec: FieldSpec;
  /** path of the row, empty for the file itself */
  base: string;
  draft: Draft;
  onChange: (path: string, value: unknown) => void;
  problems: ReadonlyMap<string, string>;
}) {
  const path = base ? `${base}.${spec.path}` : spec.path;
  const value = valueAt(draft, path);
  // what is being typed stands as typed: "1." and "a, " are on their way
  const [typing, setTyping] = useState<string | undefined>();
  const text = typing ?? showField(spec, value);
  const error = problems.get(path);
  const change = (t: string) => {
    setTyping(t);
    onChange(path, parseField(spec, t));
  };
  const common = { label: spec.label, error, value: text, ...(spec.wide ? { className: "sm:col-span-2" } : {}) };
  if (spec.type === "choice")
    return (
      <SelectField
        {...common}
        value={value === undefined ? "" : String(value)}
        onChange={(e) => onChange(path, parseField(spec, e.target.value))}
      >
        {(spec.optional || value === undefined) && <option value="">–</option>}
        {spec.options?.map((o) => (
          <option key={o} value={o}>
            {o === "true" ? "yes" : o === "false" ? "no" : o.replaceAll("-", " ")}
          </option>
        ))}
      </SelectField>
    );
  if (["long", "lines", "positions", "json"].includes(spec.type))
    return <TextArea {...common} onChange={(e) => change(e.target.value)} onBlur={() => setTyping(undefined)} />;
  return (
    <TextField
      {...common}
      inputMode={spec.type === "number" ? "decimal" : "text"}
      list={spec.type === "node" ? "unit-nodes" : undefined}
      onChange={(e) => change(e.target.value)}
      onBlur={() => setTyping(undefined)}
    />
  );
}
