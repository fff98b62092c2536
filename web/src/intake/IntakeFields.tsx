import { fromDisplay, toDisplay, unitLabel } from "@gearsense/core/quantity";
import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { useSettings } from "../settings/settings.tsx";
import { Button, Choice, TextArea, TextField } from "../shared/controls.tsx";
import {
  type IntakeValue,
  LOADS,
  NEW_SYMPTOM,
  parseWhere,
  SYMPTOM_KINDS,
  type SymptomValue,
  TEMPERATURES,
} from "./intake-model.ts";

interface Props {
  readonly value: IntakeValue;
  readonly onChange: (patch: Partial<IntakeValue>) => void;
  readonly errors: Readonly<Record<string, string>>;
}

/** The complaint in the customer's words beside the same made precise. */
export function IntakeFields({ value, onChange, errors }: Props) {
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
      <fieldset>
        <legend className="mb-1 text-lg">Made precise</legend>
        <ul className="flex flex-col gap-3">
          {symptoms.map((s, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a symptom has no identity but its place
            <li key={i} className="border border-rule bg-panel p-3">
              <SymptomFields
                value={s}
                onChange={(patch) => change(i, patch)}
                onRemove={() => onChange({ symptoms: symptoms.filter((_, k) => k !== i) })}
                number={i + 1}
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
          Add a sign
        </Button>
      </fieldset>
      <div className="grid gap-4 md:grid-cols-2">
        <TextArea
          label="Done already"
          hint="Parts swapped, fluid changed, battery off, fuses pulled: codes may be the last person's doing."
          value={value.doneAlready}
          onChange={(e) => onChange({ doneAlready: e.target.value })}
        />
        <TextArea
          label="Recent events"
          hint="Tow, impact, kerb, flood, engine work, more power."
          value={value.recentEvents}
          onChange={(e) => onChange({ recentEvents: e.target.value })}
        />
      </div>
    </div>
  );
}

function SymptomFields({
  value,
  onChange,
  onRemove,
  number,
}: {
  value: SymptomValue;
  onChange: (p: Partial<SymptomValue>) => void;
  onRemove: () => void;
  number: number;
}) {
  const { system } = useSettings();
  const [where, setWhere] = useState(value.where.join(", "));
  const [wrong, setWrong] = useState<readonly string[]>([]);
  const speed = (at: 0 | 1) =>
    value.speedKmh ? String(Math.round(toDisplay(value.speedKmh[at], "vehicle-speed", system))) : "";
  const setSpeed = (at: 0 | 1, text: string) => {
    const n = Number(text);
    if (text === "" || !Number.isFinite(n)) {
      const { speedKmh: _, ...rest } = value;
      onChange({ ...rest, speedKmh: undefined });
      return;
    }
    const kmh = Math.max(0, Math.min(320, fromDisplay(n, "vehicle-speed", system)));
    const old = value.speedKmh ?? [kmh, kmh];
    onChange({ speedKmh: at === 0 ? [kmh, Math.max(kmh, old[1])] : [Math.min(kmh, old[0]), kmh] });
  };
  return (
    <div className="flex flex-col gap-3">
      <div className="flex items-start justify-between gap-3">
        <Choice
          label={`Sign ${number}: what is felt`}
          value={value.kind}
          options={SYMPTOM_KINDS}
          onChange={(kind) => onChange({ kind })}
        />
        <Button tone="quiet" onClick={onRemove} aria-label={`Remove sign ${number}`}>
          <Trash2 aria-hidden="true" className="size-5" />
        </Button>
      </div>
      <div className="flex flex-wrap gap-x-6 gap-y-3">
        <Choice label="Load" value={value.load} options={LOADS} onChange={(load) => onChange({ load })} />
        <Choice
          label="Temperature"
          value={value.temperature}
          options={TEMPERATURES}
          onChange={(temperature) => onChange({ temperature })}
        />
      </div>
      <div className="grid gap-3 sm:grid-cols-[1.4fr_1fr_1fr_1.4fr]">
        <TextField
          label="Gears or shifts"
          placeholder="4, 2-3"
          value={where}
          onChange={(e) => {
            setWhere(e.target.value);
            const parsed = parseWhere(e.target.value);
            setWrong(parsed.wrong);
            onChange({ where: parsed.where });
          }}
          error={wrong.length > 0 ? `"${wrong[0]}" is neither a gear (4, R) nor a shift (2-3)` : undefined}
        />
        <TextField
          label={`From, ${unitLabel("vehicle-speed", system)}`}
          inputMode="numeric"
          value={speed(0)}
          onChange={(e) => setSpeed(0, e.target.value)}
        />
        <TextField
          label={`To, ${unitLabel("vehicle-speed", system)}`}
          inputMode="numeric"
          value={speed(1)}
          onChange={(e) => setSpeed(1, e.target.value)}
        />
        <TextField label="Since" value={value.since} onChange={(e) => onChange({ since: e.target.value })} />
      </div>
    </div>
  );
}
