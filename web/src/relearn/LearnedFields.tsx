import { useJob } from "../job/job-context.tsx";
import { NumberField } from "../shared/NumberField.tsx";

/** Learned values as they are typed, by the ids of the unit file; null: nothing stands there. */
export type TypedValues = Readonly<Record<string, number | null>>;

/** Those that were typed. */
export const typedOnly = (typed: TypedValues): Record<string, number> =>
  Object.fromEntries(Object.entries(typed).filter((x): x is [string, number] => x[1] !== null));

/** A field for each learned value of the job's unit, with its limits. */
export function LearnedFields({
  title,
  values,
  onChange,
}: {
  title: string;
  values: TypedValues;
  onChange: (values: TypedValues) => void;
}) {
  const { job } = useJob();
  return (
    <fieldset className="grid gap-3 sm:grid-cols-3">
      <legend className="label">{title}</legend>
      {(job.unit.adaptations ?? []).map((a) => (
        <NumberField
          key={a.id}
          label={`${a.name}, ${a.unit}`}
          hint={`${a.limits[0]} to ${a.limits[1]}`}
          value={values[a.id] ?? null}
          onChange={(v) => onChange({ ...values, [a.id]: v })}
        />
      ))}
    </fieldset>
  );
}
