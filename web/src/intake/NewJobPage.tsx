import { fromDisplay } from "@gearsense/core/quantity";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { FormEvent } from "react";
import { Link, useNavigate } from "react-router";
import { ApiFailure, call } from "../api/client.ts";
import { takeJob, useUnits } from "../api/queries.ts";
import { useShortcuts } from "../keys/shortcuts.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Button, Notice } from "../shared/controls.tsx";
import { TopBar } from "../shared/TopBar.tsx";
import { useDraft } from "../shared/useDraft.ts";
import { IntakeFields } from "./IntakeFields.tsx";
import { EMPTY_INTAKE, type IntakeValue, USUAL_GEARS } from "./intake-model.ts";
import { KnownVehicles } from "./KnownVehicles.tsx";
import { VehicleFields } from "./VehicleFields.tsx";

interface Draft {
  name: string;
  plate: string;
  owner: string;
  vin: string;
  unitId: string;
  odometer: string;
  intake: IntakeValue;
}

const EMPTY: Draft = { name: "", plate: "", owner: "", vin: "", unitId: "", odometer: "", intake: EMPTY_INTAKE };

/** Opens a job. What is typed is kept on this device until it is stored. */
export default function NewJobPage() {
  const { system } = useSettings();
  const { data: units = [] } = useUnits();
  const draft = useDraft<Draft>("new-job", EMPTY);
  const { value, set } = draft;
  const client = useQueryClient();
  const navigate = useNavigate();
  useShortcuts([{ key: "Escape", label: "Back to the bay board", group: "Open a job", run: () => void navigate("/") }]);
  const open = useMutation({
    mutationFn: () =>
      call("openJob", {
        body: {
          vehicle: { name: value.name, plate: value.plate, owner: value.owner, vin: value.vin },
          unitId: value.unitId,
          odometerKm:
            value.odometer.trim() === ""
              ? Number.NaN
              : Math.round(fromDisplay(Number(value.odometer), "distance", system)),
          intake: value.intake,
        },
      }),
    onSuccess: async (job) => {
      draft.clear();
      await takeJob(client, job);
      await navigate(`/jobs/${job.id}/first-look`);
    },
  });
  const failure = open.error instanceof ApiFailure ? open.error : undefined;
  const errors = failure?.fields ?? {};
  const submit = (e: FormEvent) => {
    e.preventDefault();
    open.mutate();
  };
  const unit = units.find((u) => u.id === value.unitId);
  return (
    <div className="flex min-h-full flex-col">
      <TopBar>
        <Link to="/" className="label text-2xl">
          Gearsense
        </Link>
        <span className="text-quiet">New job</span>
      </TopBar>
      <main className="mx-auto w-full max-w-5xl flex-1 p-5">
        <form onSubmit={submit} noValidate className="flex flex-col gap-5">
          <div className="flex items-end justify-between">
            <h1 className="text-[28px] leading-8">Open a job</h1>
            <Button tone="primary" type="submit" disabled={open.isPending}>
              {open.isPending ? "Opening …" : "Open the job"}
            </Button>
          </div>
          {failure && Object.keys(errors).length === 0 && (
            <Notice tone="stop" live>
              {failure.message}
            </Notice>
          )}
          {draft.drafted && !open.isPending && !failure && (
            <p className="text-sm text-quiet">Kept on this device; not stored until you open the job.</p>
          )}
          <KnownVehicles value={value} onTake={set} />
          <VehicleFields value={value} onChange={set} errors={errors} />
          <IntakeFields
            value={value.intake}
            onChange={(patch) => set({ intake: { ...value.intake, ...patch } })}
            errors={errors}
            gears={unit?.gears.map((g) => g.name) ?? USUAL_GEARS}
          />
        </form>
      </main>
    </div>
  );
}
