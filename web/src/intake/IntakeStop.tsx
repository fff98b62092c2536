import { useState } from "react";
import { Link } from "react-router";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { useSettings } from "../settings/settings.tsx";
import { Button, Heading } from "../shared/controls.tsx";
import { CorrectIdentity } from "./CorrectIdentity.tsx";
import { IntakeFields } from "./IntakeFields.tsx";
import { EMPTY_INTAKE, type IntakeValue } from "./intake-model.ts";

/** The complaint, to be made more precise while the job is open. */
export default function IntakeStop() {
  const { job, state, mayEdit } = useJob();
  const { show } = useSettings();
  const [correcting, setCorrecting] = useState(false);
  const form = useEntryForm<IntakeValue>(
    "intake",
    "intake",
    state.intake,
    (state.intake?.body as IntakeValue | undefined) ?? EMPTY_INTAKE,
  );
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void form.submit();
      }}
      noValidate
    >
      <Heading
        title="Intake"
        actions={
          mayEdit && (
            <Button tone="primary" type="submit" disabled={form.pending || !form.drafted} data-primary>
              Store the intake
            </Button>
          )
        }
      >
        Which gear or shift, which speed, which load, cold or hot: the more precise, the fewer suspects.
      </Heading>
      <fieldset disabled={!mayEdit} className="flex flex-col gap-4">
        <div className="flex flex-wrap items-center justify-between gap-3 border border-rule bg-panel px-3 py-2">
          <p>
            <span className="label">{job.vehicle.name}</span>
            {job.vehicle.plate && `, ${job.vehicle.plate}`} · {job.vehicle.owner} · {job.unitName} ·{" "}
            {show(job.odometerKm, "distance")}
          </p>
          {mayEdit && <Button onClick={() => setCorrecting(true)}>Correct vehicle, unit or mileage</Button>}
        </div>
        {job.earlier.length > 0 && (
          <section aria-label="Here before" className="border border-rule bg-panel px-3 py-2">
            <h2 className="text-lg">Here before</h2>
            <p className="text-quiet">What was renewed then counts against being what is wrong now.</p>
            <ul>
              {job.earlier.map((e) => (
                <li key={e.jobId} className="border-t border-rule py-1.5">
                  <Link className="underline" to={`/jobs/${e.jobId}`}>
                    Job {e.number}
                  </Link>
                  , {e.openedAt.slice(0, 10)}, {show(e.odometerKm, "distance")}: {e.title}
                  {e.parts.length > 0 && <span className="text-quiet"> · {e.parts.join(", ")}</span>}
                  {e.proof && <span className="text-quiet"> · {e.proof}</span>}
                </li>
              ))}
            </ul>
          </section>
        )}
        <FormStatus form={form} />
        <IntakeFields
          value={form.value}
          onChange={form.set}
          errors={form.errors}
          gears={job.unit.gears.map((g) => g.name)}
        />
      </fieldset>
      {correcting && <CorrectIdentity onClose={() => setCorrecting(false)} />}
    </form>
  );
}
