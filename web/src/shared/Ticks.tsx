import { ToggleGroup } from "radix-ui";
import { useId } from "react";
import { type ChoiceOption, GroupFrame } from "./controls.tsx";

/** Any of a few, as large touch targets in a row. */
export function Ticks<T extends string>({
  label,
  value,
  options,
  onChange,
  error,
}: {
  label: string;
  value: readonly T[];
  options: readonly ChoiceOption<T>[];
  onChange: (v: T[]) => void;
  error?: string | undefined;
}) {
  const id = useId();
  return (
    <GroupFrame id={id} label={label} error={error}>
      <ToggleGroup.Root
        type="multiple"
        aria-labelledby={id}
        value={[...value]}
        onValueChange={(v) => onChange(v as T[])}
        className="flex flex-wrap gap-1.5"
      >
        {options.map((o) => (
          <ToggleGroup.Item
            key={o.value}
            value={o.value}
            className="label min-h-11 min-w-11 rounded-sm border border-field bg-panel px-3 data-[state=on]:border-slate data-[state=on]:bg-slate data-[state=on]:text-on-slate"
          >
            {o.label}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
    </GroupFrame>
  );
}
