import { useColleagues } from "../api/shop-queries.ts";
import { useAddEntry } from "../offline/useAddEntry.ts";
import { Notice, SelectField } from "../shared/controls.tsx";
import { useJob } from "./job-context.tsx";

/** Who has the job in hand: given to somebody, or taken. */
export function AssignedTo() {
  const { job, state, mayEdit } = useJob();
  const { data } = useColleagues();
  const give = useAddEntry(job.id);
  const to = state.assigned?.body.to ?? "";
  // somebody who is gone keeps it until it is given on
  const names = [...new Set([...(data?.names ?? []), ...(to === "" ? [] : [to])])];
  return (
    <div className="px-3 py-2">
      <SelectField
        label="In the hands of"
        value={to}
        disabled={!mayEdit || give.isPending}
        onChange={(e) =>
          give.mutate({ kind: "assigned", body: { to: e.target.value }, baseSeq: state.assigned?.seq ?? 0 })
        }
      >
        <option value="">nobody</option>
        {names.map((n) => (
          <option key={n}>{n}</option>
        ))}
      </SelectField>
      {give.error && (
        <Notice tone="stop" live>
          {give.error.message}
        </Notice>
      )}
    </div>
  );
}
