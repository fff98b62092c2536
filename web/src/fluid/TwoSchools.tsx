import { Choice, Notice, TextField } from "../shared/controls.tsx";

export interface Consent {
  readonly choice: "change" | "leave" | undefined;
  readonly by: string;
}

/** Old fluid that was never changed: both schools of the trade, and what the owner agreed to. */
export function TwoSchools({
  value,
  onChange,
  disabled,
  error,
}: {
  value: Consent;
  onChange: (v: Consent) => void;
  disabled: boolean;
  error: string | undefined;
}) {
  return (
    <section aria-label="Old fluid" className="mb-4 flex flex-col gap-3">
      <Notice tone="caution" title="Old fluid that was never changed: ask the owner first">
        <p>
          One school changes it: fresh fluid costs little, and shudder or late shifts from spent fluid go with it. What
          slips already may slip more once its debris is gone; that is the wear, not the fluid.
        </p>
        <p>
          The other leaves it: the unit goes on as it is, and what it needs next is the repair. Shudder goes by steps:
          fluid, then friction modifier, then the converter.
        </p>
      </Notice>
      <fieldset disabled={disabled} className="flex flex-wrap items-start gap-x-6 gap-y-3">
        <Choice
          label="The owner agreed to"
          value={value.choice}
          options={[
            { value: "change", label: "Change it" },
            { value: "leave", label: "Leave it" },
          ]}
          onChange={(choice) => onChange({ ...value, choice })}
        />
        <TextField
          label="Who agreed"
          value={value.by}
          onChange={(e) => onChange({ ...value, by: e.target.value })}
          error={error}
          className="w-60"
        />
      </fieldset>
    </section>
  );
}
