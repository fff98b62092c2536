import { fromDisplay, toDisplay } from "@gearsense/core/quantity";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { call } from "../api/client.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { useSettings } from "../settings/settings.tsx";
import { Button, Notice, Progress, TextField } from "../shared/controls.tsx";
import { Modal } from "../shared/Modal.tsx";
import { VehicleFields } from "./VehicleFields.tsx";

/** Vehicle, unit and mileage of an open job set right, with the reason; logs of another unit are analysed anew. */
export function CorrectIdentity({ onClose }: { onClose: () => void }) {
  const { job, state } = useJob();
  const { system } = useSettings();
  const client = useQueryClient();
  const standing = [...job.entries].reverse().find((e) => e.kind === "identity");
  const form = useEntryForm("identity", "identity", standing, {
    name: job.vehicle.name,
    plate: job.vehicle.plate,
    owner: job.vehicle.owner,
    vin: job.vehicle.vin,
    unitId: job.unitId,
    odometer: String(Math.round(toDisplay(job.odometerKm, "distance", system))),
    reason: "",
  });
  const [judging, setJudging] = useState(0);
  const [problem, setProblem] = useState<string | undefined>();
  const { value, set, errors } = form;
  const analysed = state.analyses.map((a) => a.body.logId);
  const store = async () => {
    const { odometer, ...rest } = value;
    const odometerKm =
      odometer.trim() === "" ? Number.NaN : Math.round(fromDisplay(Number(odometer), "distance", system));
    if (!(await form.submit({ ...rest, odometerKm }))) return;
    let failed = false;
    if (value.unitId !== job.unitId) {
      for (const [i, logId] of analysed.entries()) {
        setJudging(i + 1);
        try {
          await call("analyseAnew", { params: { jobId: job.id, logId } });
        } catch (error) {
          failed = true;
          setProblem(error instanceof Error ? error.message : String(error));
        }
      }
      setJudging(0);
    }
    await client.invalidateQueries();
    if (!failed) onClose();
  };
  return (
    <Modal open onClose={onClose} title="Correct vehicle, unit or mileage" wide>
      <form
        noValidate
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          e.stopPropagation();
          void store();
        }}
      >
        <FormStatus form={form} />
        {problem && (
          <Notice tone="stop" title="A log could not be analysed for this unit" live>
            {problem}
          </Notice>
        )}
        <VehicleFields
          value={value}
          onChange={set}
          errors={errors}
          unitHint={
            value.unitId !== job.unitId && analysed.length > 0
              ? `${analysed.length === 1 ? "One log is" : `${analysed.length} logs are`} analysed anew for it; all odds change.`
              : undefined
          }
        />
        <TextField
          label="Reason"
          hint="It stands on the timeline; what was there before stays there too."
          value={value.reason}
          onChange={(e) => set({ reason: e.target.value })}
          error={errors.reason}
        />
        {judging > 0 && <Progress label={`Analysing log ${judging} of ${analysed.length} anew`} share={undefined} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Not now</Button>
          <Button tone="primary" type="submit" disabled={form.pending || judging > 0}>
            Store the correction
          </Button>
        </div>
      </form>
    </Modal>
  );
}
