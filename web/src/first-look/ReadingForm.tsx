import type { ReactNode } from "react";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import type { EntryForm } from "../job/useEntryForm.ts";
import { Button } from "../shared/controls.tsx";

/** The frame of one reading at the first look: title, store button, cautions before the fields, state of the form. */
export function ReadingForm<B extends object>({
  form,
  label,
  title,
  action,
  primary = false,
  waits = false,
  before,
  fieldsClass,
  children,
  after,
}: {
  form: EntryForm<B>;
  label: string;
  title: ReactNode;
  action: string;
  primary?: boolean;
  /** something has to be ticked first */
  waits?: boolean;
  before?: ReactNode;
  fieldsClass: string;
  children: ReactNode;
  after?: ReactNode;
}) {
  const { mayEdit } = useJob();
  return (
    <form
      aria-label={label}
      className="flex flex-col gap-3 border border-rule bg-panel p-4"
      onSubmit={(e) => {
        e.preventDefault();
        void form.submit();
      }}
      noValidate
    >
      <div className="flex items-end justify-between gap-3">
        <div>{title}</div>
        {mayEdit && (
          <Button
            tone={primary ? "primary" : "plain"}
            type="submit"
            disabled={form.pending || waits}
            data-primary={primary || undefined}
          >
            {action}
          </Button>
        )}
      </div>
      {mayEdit && before}
      <FormStatus form={form} />
      <fieldset disabled={!mayEdit} className={fieldsClass}>
        {children}
      </fieldset>
      {after}
    </form>
  );
}
