import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Button, Heading } from "../shared/controls.tsx";
import { IntakeFields } from "./IntakeFields.tsx";
import { EMPTY_INTAKE, type IntakeValue } from "./intake-model.ts";

/** The complaint, to be made more precise while the job is open. */
export default function IntakeStop() {
  const { job, state, mayEdit } = useJob();
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
        <FormStatus form={form} />
        <IntakeFields
          value={form.value}
          onChange={form.set}
          errors={form.errors}
          gears={job.unit.gears.map((g) => g.name)}
        />
      </fieldset>
    </form>
  );
}
