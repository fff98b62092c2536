import { checkVin } from "@gearsense/core/intake";
import { fromDisplay, toDisplay, unitLabel } from "@gearsense/core/quantity";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { call } from "../api/client.ts";
import { useUnits } from "../api/queries.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { useSettings } from "../settings/settings.tsx";
import { Button, Notice, Progress, SelectField, TextField } from "../shared/controls.tsx";
import { Modal } from "../shared/Modal.tsx";

/** Vehicle, unit and mileage of an open job set right, with the reason; logs of another unit are analysed anew. */
export function CorrectIdentity({ onClose }: { onClose: () => void }) {
  const { job, state } = useJob();
  const { system } = useSettings();
  const { data: units = [] } = useUnits();
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
  const vin = value.vin.trim() === "" ? undefined : checkVin(value.vin);
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
        <div className="grid gap-4 sm:grid-cols-2">
          <TextField
            label="Vehicle"
            value={value.name}
            onChange={(e) => set({ name: e.target.value })}
            error={errors.name}
          />
          <TextField
            label="Plate"
            value={value.plate}
            onChange={(e) => set({ plate: e.target.value })}
            error={errors.plate}
          />
          <TextField
            label="Owner"
            value={value.owner}
            onChange={(e) => set({ owner: e.target.value })}
            error={errors.owner}
          />
          <TextField
            label="VIN"
            maxLength={24}
            value={value.vin}
            onChange={(e) => set({ vin: e.target.value })}
            error={errors.vin ?? (vin && !vin.ok ? vin.message : undefined)}
          />
          <SelectField
            label="Transmission"
            value={value.unitId}
            onChange={(e) => set({ unitId: e.target.value })}
            error={errors.unitId}
            hint={
              value.unitId !== job.unitId && analysed.length > 0
                ? `${analysed.length === 1 ? "One log is" : `${analysed.length} logs are`} analysed anew for it; all odds change.`
                : undefined
            }
          >
            {units.map((u) => (
              <option key={u.id} value={u.id}>
                {u.name}
              </option>
            ))}
          </SelectField>
          <TextField
            label={`Mileage, ${unitLabel("distance", system)}`}
            inputMode="numeric"
            value={value.odometer}
            onChange={(e) => set({ odometer: e.target.value })}
            error={errors.odometerKm}
          />
        </div>
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
