import { aftercareOf, causeMissing } from "@gearsense/core/bench";
import { type EntryBodies, type JobState, untouched } from "@gearsense/core/job";
import { fromDisplay, toDisplay, unitLabel } from "@gearsense/core/quantity";
import type { Unit } from "@gearsense/core/unit";
import { Download, FileText, Plus, Printer, Trash2 } from "lucide-react";
import { Link } from "react-router";
import { urlOf } from "../api/client.ts";
import { useSession } from "../api/queries.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { useSettings } from "../settings/settings.tsx";
import { Button, Heading, Notice, TextArea, TextField } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { FoundPhotos } from "./FoundPhotos.tsx";
import { Reopen } from "./Reopen.tsx";

type Handover = EntryBodies["handover"];
type FollowUp = Handover["followUps"][number];

const LINK =
  "label inline-flex min-h-11 items-center gap-2 rounded-sm border border-field bg-panel px-4 hover:border-ink";

/** What a build asks to be looked at: when it is run in, and what to watch. */
function watched(unit: Unit, state: JobState, odometerKm: number): FollowUp[] {
  const { breakInKm, watch } = aftercareOf(unit, state);
  const dueKm = breakInKm === undefined ? null : odometerKm + breakInKm;
  return [
    ...(breakInKm === undefined
      ? []
      : [{ what: "After the break-in: level, leaks, learned values", dueOn: null, dueKm }]),
    ...watch.map((what) => ({ what, dueOn: null, dueKm })),
  ];
}

/** Report, follow-ups, and the end of the job. */
export default function HandoverStop() {
  const { job, state, mayEdit } = useJob();
  const { system } = useSettings();
  const { data: session } = useSession();
  const mayReopen = session !== undefined && session.account.role !== "viewer";
  const form = useEntryForm<Handover>(
    "handover",
    "handover",
    state.handover,
    state.handover?.body ?? {
      remarks: "",
      // what the fluid plan asks for, or the least
      followUps: [
        ...(state.fluidPlan?.body.followUps.map(({ what, dueOn, dueKm }) => ({ what, dueOn, dueKm })) ?? [
          { what: "Level recheck", dueOn: null, dueKm: null },
        ]),
        ...watched(job.unit as Unit, state, job.odometerKm),
      ],
    },
  );
  const { value, set, errors } = form;
  const change = (i: number, patch: Partial<FollowUp>) =>
    set({ followUps: value.followUps.map((f, k) => (k === i ? { ...f, ...patch } : f)) });
  return (
    <>
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void form.submit();
        }}
      >
        <Heading
          title="Hand-over"
          actions={
            mayEdit && (
              <Button
                tone="primary"
                type="submit"
                disabled={form.pending || untouched(state) || causeMissing(state)}
                data-primary
              >
                Hand over and close
              </Button>
            )
          }
        >
          What was found, done, measured, and what remains.
        </Heading>
        <div className="flex flex-col gap-4">
          <FormStatus form={form} />
          {untouched(state) && !state.handover && (
            <Notice tone="caution" title="There is nothing to hand over yet">
              Nothing was decided, done or proved.{" "}
              <Link className="underline" to={`/jobs/${job.id}/decide`}>
                Record a decision
              </Link>{" "}
              first; “nothing is wrong” is one too.
            </Notice>
          )}
          {causeMissing(state) && !state.handover && (
            <Notice tone="caution" title="What broke it has no answer yet">
              Something on the bench failed.{" "}
              <Link className="underline" to={`/jobs/${job.id}/bench?at=cause`}>
                Say what broke it, or that it is not known
              </Link>
              ; then hand over.
            </Notice>
          )}
          {!state.proof && !untouched(state) && !state.handover && (
            <Notice tone="caution" title="The repair is not proved">
              No proof was accepted: "better" is only a feeling. You may close all the same; the report says so.
            </Notice>
          )}
          {state.comebacks.map((c) => (
            <Notice key={c.id} tone="caution" title={`It came back, told by ${c.author}`}>
              {c.body.what}
            </Notice>
          ))}
          {state.handover && (
            <Notice tone="clear" title={`Handed over by ${state.handover.author}`}>
              {state.handover.body.remarks}
            </Notice>
          )}
          {state.handover && mayReopen && <Reopen />}
          <div className="flex flex-wrap gap-2">
            <Link to={`/jobs/${job.id}/report`} className={LINK}>
              <Printer aria-hidden="true" className="size-5" />
              Report to print
            </Link>
            <a href={urlOf("reportPdf", { jobId: job.id }, { system })} className={LINK} download>
              <FileText aria-hidden="true" className="size-5" />
              Report as PDF
            </a>
            {state.bench.length > 0 && (
              <a href={urlOf("buildPdf", { jobId: job.id }, { system })} className={LINK} download>
                <FileText aria-hidden="true" className="size-5" />
                Build record
              </a>
            )}
            <a href={urlOf("exportJob", { jobId: job.id })} className={LINK} download>
              <Download aria-hidden="true" className="size-5" />
              Whole job with its raw logs (zip)
            </a>
          </div>
          <fieldset disabled={!mayEdit} className="flex min-w-0 flex-col gap-3">
            <TextArea
              label="Remarks for the owner"
              value={value.remarks}
              onChange={(e) => set({ remarks: e.target.value })}
              error={errors.remarks}
            />
            <h2 className="text-xl">Follow-ups</h2>
            {value.followUps.map((f, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a follow-up has no identity but its place
              <div key={i} className="grid items-end gap-3 sm:grid-cols-[1fr_170px_150px_auto]">
                <TextField
                  label={`What, ${i + 1}`}
                  value={f.what}
                  onChange={(e) => change(i, { what: e.target.value })}
                  error={errors[`followUps.${i}.what`]}
                />
                <TextField
                  label="Due on"
                  type="date"
                  value={f.dueOn ?? ""}
                  onChange={(e) => change(i, { dueOn: e.target.value || null })}
                  error={errors[`followUps.${i}.dueOn`]}
                />
                <NumberField
                  label={`Due at, ${unitLabel("distance", system)}`}
                  value={f.dueKm === null ? null : toDisplay(f.dueKm, "distance", system)}
                  onChange={(n) => change(i, { dueKm: n === null ? null : fromDisplay(n, "distance", system) })}
                  error={errors[`followUps.${i}.dueKm`]}
                />
                <Button
                  tone="quiet"
                  onClick={() => set({ followUps: value.followUps.filter((_, k) => k !== i) })}
                  aria-label={`Remove follow-up ${i + 1}`}
                >
                  <Trash2 aria-hidden="true" className="size-5" />
                </Button>
              </div>
            ))}
            <div>
              <Button onClick={() => set({ followUps: [...value.followUps, { what: "", dueOn: null, dueKm: null }] })}>
                <Plus aria-hidden="true" className="size-5" />
                Add a follow-up
              </Button>
            </div>
          </fieldset>
        </div>
      </form>
      {/* a photo is captioned in a form of its own */}
      <FoundPhotos />
    </>
  );
}
