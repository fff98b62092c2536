import { useState } from "react";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import type { Compared } from "./decide.worker.ts";

/** Used and shelf parts: they are ranked only where somebody says that there is one. */
export function PartsThere({ asked }: { asked: Compared["asked"] }) {
  const { state, mayEdit } = useJob();
  const have = state.sources?.body.have ?? [];
  const form = useEntryForm("sources", "sources", state.sources, { have });
  // a tick shows at once, and goes back when it is refused
  const [ticked, setTicked] = useState<readonly string[] | undefined>();
  if (asked.length === 0) return null;
  const tick = (id: string, on: boolean) => {
    const next = on ? [...have, id] : have.filter((x) => x !== id);
    setTicked(next);
    void form.submit({ have: next }).finally(() => setTicked(undefined));
  };
  return (
    <fieldset disabled={!mayEdit || form.pending} className="border border-rule bg-panel p-3">
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
      {form.failure && (
        <p role="alert" className="font-semibold text-stop">
          {form.failure}
        </p>
      )}
    </fieldset>
  );
}
