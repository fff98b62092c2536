import { Plus, Trash2 } from "lucide-react";
import { Button, Choice, TextArea } from "../shared/controls.tsx";
import { HistoryFields } from "./HistoryFields.tsx";
import { type IntakeValue, NEW_SYMPTOM, SYMPTOM_KINDS, type SymptomValue } from "./intake-model.ts";
import { Offers } from "./Offers.tsx";
import { SituationPicture } from "./SituationPicture.tsx";

interface Props {
  readonly value: IntakeValue;
  readonly onChange: (patch: Partial<IntakeValue>) => void;
  readonly errors: Readonly<Record<string, string>>;
  /** of the unit, or usual ones while none is chosen */
  readonly gears: readonly string[];
}

/** The complaint in the customer's words beside the same made precise. */
export function IntakeFields({ value, onChange, errors, gears }: Props) {
  const symptoms = value.symptoms;
  const change = (i: number, patch: Partial<SymptomValue>) =>
    onChange({ symptoms: symptoms.map((s, k) => (k === i ? { ...s, ...patch } : s)) });
  return (
    <div className="flex flex-col gap-4">
      <TextArea
        label="Complaint, in the customer's words"
        value={value.complaint}
        onChange={(e) => onChange({ complaint: e.target.value })}
        error={errors.complaint ?? errors["intake.complaint"]}
        rows={2}
      />
      <Offers value={value} onChange={onChange} />
      <fieldset>
        <legend className="mb-1 text-lg">Pin it down</legend>
        <ul className="flex flex-col gap-3">
          {symptoms.map((s, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a symptom has no identity but its place
            <li key={i} className="flex flex-col gap-3 border border-rule bg-panel p-3">
              <div className="flex items-start justify-between gap-3">
                <Choice
                  label={`Symptom ${i + 1}: what is felt`}
                  value={s.kind}
                  options={SYMPTOM_KINDS}
                  onChange={(kind) => change(i, { kind })}
                />
                <Button
                  tone="quiet"
                  onClick={() => onChange({ symptoms: symptoms.filter((_, k) => k !== i) })}
                  aria-label={`Remove symptom ${i + 1}`}
                >
                  <Trash2 aria-hidden="true" className="size-5" />
                </Button>
              </div>
              <SituationPicture
                value={s}
                onChange={(patch) => change(i, patch)}
                gears={gears}
                number={i + 1}
                error={errors[`symptoms.${i}.where`] ?? errors[`intake.symptoms.${i}.where`]}
              />
            </li>
          ))}
        </ul>
        <Button
          className="mt-2"
          onClick={() => onChange({ symptoms: [...symptoms, NEW_SYMPTOM] })}
          disabled={symptoms.length >= 12}
        >
          <Plus aria-hidden="true" className="size-5" />
          Add a symptom
        </Button>
      </fieldset>
      <HistoryFields value={value} onChange={onChange} errors={errors} />
    </div>
  );
}
