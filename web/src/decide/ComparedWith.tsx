import { X } from "lucide-react";
import { useState } from "react";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Button, SelectField } from "../shared/controls.tsx";
import type { Compared } from "./decide.worker.ts";

/** What else the options are compared with: parts that count only where there are some, and repairs that somebody asks for. */
export function ComparedWith({ asked, others }: Pick<Compared, "asked" | "others">) {
  const { state, mayEdit } = useJob();
  const { have, also = [] } = state.sources?.body ?? { have: [] };
  const form = useEntryForm("sources", "sources", state.sources, { have, also });
  // a tick shows at once, and goes back when it is refused
  const [ticked, setTicked] = useState<readonly string[] | undefined>();
  const store = (there: readonly string[], compared: typeof also) =>
    form.submit({
      have: there,
      titles: there.map((id) => asked.find((a) => a.id === id)?.title ?? id),
      also: compared,
    });
  const tick = (id: string, on: boolean) => {
    const next = on ? [...have, id] : have.filter((x) => x !== id);
    setTicked(next);
    void store(next, also).finally(() => setTicked(undefined));
  };
  const compare = (next: typeof also) => void store(have, next);
  const disabled = !mayEdit || form.pending;
  return (
    <>
      {asked.length > 0 && (
        <fieldset disabled={disabled} className="border border-rule bg-panel p-3">
          <legend className="label px-1">Is there one? Counts only when ticked</legend>
          <div className="flex flex-wrap gap-x-6">
            {asked.map((a) => (
              <label key={a.id} className="flex min-h-11 items-center gap-2">
                <input
                  type="checkbox"
                  className="size-5"
                  checked={(ticked ?? have).includes(a.id)}
                  onChange={(e) => tick(a.id, e.target.checked)}
                />
                {a.title}
              </label>
            ))}
          </div>
        </fieldset>
      )}
      {mayEdit && (
        <SelectField
          label="Compare another repair"
          hint="One that the odds don’t list: a fluid service that is due, or what the owner asks about."
          className="max-w-xl"
          value=""
          disabled={disabled}
          onChange={(e) => {
            const chosen = others.find((o) => o.repairId === e.target.value);
            if (chosen) compare([...also, chosen]);
          }}
        >
          <option value="">None</option>
          {others.map((o) => (
            <option key={o.repairId} value={o.repairId}>
              {o.title}
            </option>
          ))}
        </SelectField>
      )}
      {also.length > 0 && (
        <ul aria-label="Compared because somebody asked" className="flex flex-wrap items-center gap-x-6">
          <li className="label">Compared because somebody asked:</li>
          {also.map((a) => (
            <li key={a.repairId} className="flex items-center gap-2">
              {a.title}
              {mayEdit && (
                <Button
                  tone="quiet"
                  aria-label={`Leave out: ${a.title}`}
                  disabled={disabled}
                  onClick={() => compare(also.filter((x) => x.repairId !== a.repairId))}
                >
                  <X aria-hidden="true" className="size-5" />
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
      {form.failure && (
        <p role="alert" className="font-semibold text-stop">
          {form.failure}
        </p>
      )}
    </>
  );
}
