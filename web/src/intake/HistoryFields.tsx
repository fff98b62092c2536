import { Choice, TextArea, TextField } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { Ticks } from "../shared/Ticks.tsx";
import { DUTY, EVENTS, HISTORY, type IntakeValue, WISHES } from "./intake-model.ts";

type Happened<K extends string> = readonly { readonly kind: K; readonly what: string }[];

/** Ticks, with a line of words for each that is ticked. */
function HappenedFields<K extends string>({
  label,
  options,
  value,
  onChange,
}: {
  label: string;
  options: readonly { value: K; label: string }[];
  value: Happened<K>;
  onChange: (v: { kind: K; what: string }[]) => void;
}) {
  return (
    <div className="flex flex-col gap-2">
      <Ticks
        label={label}
        value={value.map((v) => v.kind)}
        options={options}
        onChange={(kinds) =>
          onChange(kinds.map((kind) => ({ kind, what: value.find((v) => v.kind === kind)?.what ?? "" })))
        }
      />
      {value.map((v) => (
        <TextField
          key={v.kind}
          label={`${options.find((o) => o.value === v.kind)?.label}: what, when`}
          value={v.what}
          maxLength={200}
          onChange={(e) => onChange(value.map((x) => (x.kind === v.kind ? { ...x, what: e.target.value } : x)))}
        />
      ))}
    </div>
  );
}

/** What was done and what happened before, what the vehicle does, what it is worth and what the owner wants. */
export function HistoryFields({
  value,
  onChange,
  errors,
}: {
  value: IntakeValue;
  onChange: (p: Partial<IntakeValue>) => void;
  errors: Readonly<Record<string, string>>;
}) {
  return (
    <div className="flex flex-col gap-4">
      <div className="grid gap-4 md:grid-cols-2">
        <HappenedFields
          label="Done already"
          options={HISTORY}
          value={value.history ?? []}
          onChange={(history) => onChange({ history })}
        />
        <HappenedFields
          label="Events"
          options={EVENTS}
          value={value.events ?? []}
          onChange={(events) => onChange({ events })}
        />
      </div>
      <div className="flex flex-wrap items-start gap-x-6 gap-y-3">
        <Ticks label="Duty" value={value.duty ?? []} options={DUTY} onChange={(duty) => onChange({ duty })} />
        <NumberField
          label="Worth today"
          value={value.vehicleValue ?? null}
          onChange={(vehicleValue) => onChange({ vehicleValue })}
          error={errors.vehicleValue ?? errors["intake.vehicleValue"]}
        />
        <NumberField
          label="Years to keep it"
          value={value.keepYears ?? null}
          onChange={(keepYears) => onChange({ keepYears })}
          error={errors.keepYears ?? errors["intake.keepYears"]}
        />
        <NumberField
          label="A day without it costs"
          value={value.downtimeADay ?? null}
          onChange={(downtimeADay) => onChange({ downtimeADay })}
          error={errors.downtimeADay ?? errors["intake.downtimeADay"]}
        />
        <Choice label="Wanted" value={value.wish} options={WISHES} onChange={(wish) => onChange({ wish })} />
      </div>
      <div className="grid gap-4 md:grid-cols-2">
        <TextArea
          label="More of what was done"
          hint="Codes may be the last person's doing."
          value={value.doneAlready}
          onChange={(e) => onChange({ doneAlready: e.target.value })}
        />
        <TextArea
          label="More of what happened"
          value={value.recentEvents}
          onChange={(e) => onChange({ recentEvents: e.target.value })}
        />
      </div>
    </div>
  );
}
