import type { SuspectsView } from "@gearsense/contract";
import { useNavigate } from "react-router";
import { useJob } from "../job/job-context.tsx";
import { Button, Notice } from "../shared/controls.tsx";

/** After repairs that did not cure: of what the odds are now, and that another drive shows it. */
export function AfterRepairs({ evidence }: { evidence: SuspectsView["evidence"] }) {
  const { job, state, mayEdit } = useJob();
  const navigate = useNavigate();
  const repairs = state.tried.length;
  if (repairs === 0) return null;
  const driven = evidence.some((e) => e.afterRepairs === repairs && state.analyses.some((a) => a.id === e.entryId));
  return (
    <Notice
      tone="plain"
      title={`${repairs === 1 ? "One repair has" : `${repairs} repairs have`} not cured it: these odds are of what is left`}
      actions={
        !driven &&
        mayEdit && (
          <Button onClick={() => void navigate(`/jobs/${job.id}/scan?add=log`)}>Add the log of a new drive</Button>
        )
      }
    >
      What was seen before a repair speaks of all that was wrong then, what is seen since of what it has left. Look over
      the work itself first: a plug not home or a new part that is bad looks like the old fault.
      {!driven && " Clear the codes and drive again as before: what the first fault hid shows now."}
    </Notice>
  );
}
