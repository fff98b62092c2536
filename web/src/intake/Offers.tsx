import { type Offer, readComplaint } from "@gearsense/core/intake";
import { Plus } from "lucide-react";
import { useDeferredValue, useMemo } from "react";
import { useSettings } from "../settings/settings.tsx";
import { DUTY, EVENTS, HISTORY, type IntakeValue, SYMPTOM_KINDS } from "./intake-model.ts";
import { symptomText } from "./situation.ts";

const word = <T extends string>(list: readonly { value: T; label: string }[], value: T) =>
  (list.find((x) => x.value === value)?.label ?? value).toLowerCase();

/** Is an offer in the intake already? */
function taken(o: Offer, value: IntakeValue): boolean {
  switch (o.about) {
    case "symptom":
      return value.symptoms.some((s) => s.kind === o.symptom.kind);
    case "history":
      return (value.history ?? []).some((h) => h.kind === o.kind);
    case "event":
      return (value.events ?? []).some((e) => e.kind === o.kind);
    case "duty":
      return (value.duty ?? []).includes(o.kind);
  }
}

function take(o: Offer, value: IntakeValue): Partial<IntakeValue> {
  switch (o.about) {
    case "symptom":
      return { symptoms: [...value.symptoms, o.symptom as IntakeValue["symptoms"][number]] };
    case "history":
      return { history: [...(value.history ?? []), { kind: o.kind, what: o.what }] };
    case "event":
      return { events: [...(value.events ?? []), { kind: o.kind, what: o.what }] };
    case "duty":
      return { duty: [...(value.duty ?? []), o.kind] };
  }
}

/** What the customer's sentences may mean: offered with the words it was found in, taken by a touch. */
export function Offers({ value, onChange }: { value: IntakeValue; onChange: (p: Partial<IntakeValue>) => void }) {
  const { system, showRange } = useSettings();
  const text = useDeferredValue(value.complaint);
  const offers = useMemo(() => readComplaint(text, system === "metric" ? "km/h" : "mph"), [text, system]);
  const open = offers.filter((o) => !taken(o, value));
  if (open.length === 0) return null;
  const say = (o: Offer): string => {
    switch (o.about) {
      case "symptom":
        return symptomText(o.symptom as IntakeValue["symptoms"][number], word(SYMPTOM_KINDS, o.symptom.kind), (a, b) =>
          showRange(a, b, "vehicle-speed"),
        );
      case "history":
        return `done: ${word(HISTORY, o.kind)}`;
      case "event":
        return `event: ${word(EVENTS, o.kind)}`;
      case "duty":
        return `duty: ${word(DUTY, o.kind)}`;
    }
  };
  return (
    <section aria-label="Read from the words" className="flex flex-col gap-1">
      <p className="text-sm text-quiet">Read from these words; take what is right:</p>
      <ul className="flex flex-wrap gap-1.5">
        {open.map((o) => (
          <li key={`${o.about}-${o.about === "symptom" ? o.symptom.kind : o.kind}`}>
            <button
              type="button"
              onClick={() => onChange(take(o, value))}
              className="label flex min-h-11 items-center gap-1.5 rounded-sm border border-dashed border-action bg-panel px-3 text-left hover:bg-action-wash"
            >
              <Plus aria-hidden="true" className="size-4 shrink-0" />
              <span>
                {say(o)} <span className="font-normal text-quiet normal-case">“{o.words}”</span>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
