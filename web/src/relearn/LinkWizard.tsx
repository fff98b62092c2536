import type { RelearnRunView } from "@gearsense/contract";
import { judgeConditions } from "@gearsense/core/relearn";
import type { DrivenProcedure } from "@gearsense/core/unit";
import { useState } from "react";
import { useRelearning } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { Cautions, HoldsOpen, useHolds } from "../shared/Caution.tsx";
import { Button, Notice, TextField } from "../shared/controls.tsx";
import { Conditions } from "./Conditions.tsx";
import { CAUTIONS_OF } from "./cautions.ts";
import { LearnedFields, type TypedValues, typedOnly } from "./LearnedFields.tsx";
import { StageBox } from "./StageBox.tsx";
import { Windows } from "./Windows.tsx";

/** Where a vehicle that is simulated with `./gearsense vehicle` listens. */
const USUAL = { host: "127.0.0.1", port: "4190" };
const OTHER_VEHICLE = "other-vehicle";

/** The address of the link, and for values that go back what was noted of them. */
export function TakeLink({
  procedure,
  newest,
  onLeave,
}: {
  procedure: DrivenProcedure;
  newest: Readonly<Record<string, number>>;
  onLeave: () => void;
}) {
  const { job } = useJob();
  const { start } = useRelearning(job.id);
  const [at, setAt] = useState(USUAL);
  const [right, setRight] = useState(false);
  const [noted, setNoted] = useState<TypedValues>(newest);
  const writes = procedure.machine.kind === "write-back";
  const port = Number(at.port);
  const portWrong = !(Number.isInteger(port) && port >= 1 && port <= 65_535);
  const other = start.error && "code" in start.error && start.error.code === OTHER_VEHICLE;
  return (
    <form
      aria-label="Link"
      noValidate
      className="flex flex-col gap-3 border border-rule bg-panel p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (portWrong) return;
        start.mutate({
          host: at.host.trim(),
          port,
          procedureId: procedure.id,
          otherVehicle: right,
          values: writes ? typedOnly(noted) : {},
        });
      }}
    >
      <h2 className="text-xl">{procedure.name}</h2>
      <p className="text-quiet">
        Works with the simulated vehicle: ./gearsense vehicle --unit {job.unit.id} --drive as-told. Any other vehicle is
        only read from: do it with the maker’s tool and go through the steps without a link.
      </p>
      {start.error && (
        <Notice tone="stop" live>
          {start.error.message}
          {other && (
            <label className="mt-1 flex min-h-11 items-center gap-3">
              <input type="checkbox" className="size-6" checked={right} onChange={(e) => setRight(e.target.checked)} />
              It is the right vehicle all the same
            </label>
          )}
        </Notice>
      )}
      <div className="flex flex-wrap items-end gap-3">
        <TextField
          label="Machine"
          className="w-44"
          value={at.host}
          onChange={(e) => setAt({ ...at, host: e.target.value })}
        />
        <TextField
          label="Port"
          className="w-28"
          inputMode="numeric"
          value={at.port}
          error={portWrong ? "1 to 65535" : undefined}
          onChange={(e) => setAt({ ...at, port: e.target.value })}
        />
      </div>
      {writes && <LearnedFields title="Noted values" values={noted} onChange={setNoted} />}
      <div className="flex flex-wrap justify-end gap-3">
        <Button tone="quiet" onClick={onLeave}>
          Back
        </Button>
        <Button tone="primary" type="submit" data-primary disabled={start.isPending || portWrong}>
          {start.isPending ? "Reading the values …" : "Connect"}
        </Button>
      </div>
    </form>
  );
}

/** A relearn that holds a link: the conditions before it, then the stage it is in, large. */
export function LinkRun({ run, procedure }: { run: RelearnRunView; procedure: DrivenProcedure }) {
  const { job, mayEdit } = useJob();
  const { begin, end } = useRelearning(job.id);
  const holds = useHolds(CAUTIONS_OF[procedure.machine.kind]);
  const { machine } = procedure;
  const values = new Map(Object.entries(run.values));
  const open = judgeConditions(machine.preconditions, values).filter((j) => j.holds !== true);
  const stage = machine.stages[run.state.stage];
  const trouble = begin.error ?? end.error;
  return (
    <section aria-label={procedure.name} className="flex flex-col gap-4 border border-rule bg-panel p-4">
      <h2 className="text-xl">{procedure.name}</h2>
      {trouble && (
        <Notice tone="stop" live>
          {trouble.message}
        </Notice>
      )}
      {run.phase === "cut" && (
        <Notice tone="caution" live title="Connection lost">
          Nothing more comes over the link. The control unit ends the routine by itself after five seconds. Keep the
          brake pressed until then; disconnect and start again.
        </Notice>
      )}
      {run.phase === "preparing" && (
        <>
          <Cautions names={CAUTIONS_OF[machine.kind]} holds={holds} />
          <p>
            The learned values as they are now:{" "}
            {Object.keys(run.before).length === 0 ? "being read …" : "read and kept."}
          </p>
          <Conditions title="Before you start" conditions={machine.preconditions} values={values} />
        </>
      )}
      {run.phase === "running" && stage && (
        <>
          <StageBox machine={machine} index={run.state.stage}>
            {run.routine && (
              <div
                role="progressbar"
                aria-label="Progress of the routine"
                aria-valuenow={Math.round(run.routine.progressPct)}
                aria-valuemin={0}
                aria-valuemax={100}
                className="mt-3 h-4 border border-rule bg-ground"
              >
                <div className="h-full bg-slate" style={{ width: `${run.routine.progressPct}%` }} />
              </div>
            )}
          </StageBox>
          <Conditions title="Must hold throughout" conditions={machine.guards} values={values} />
          {stage.windows && <Windows windows={stage.windows} drive={run.state.drive} />}
          {stage.until && <Conditions title="Next when" conditions={stage.until} values={values} awaited />}
        </>
      )}
      {mayEdit && (
        <div className="flex flex-wrap items-center justify-end gap-3">
          {run.phase === "preparing" && <HoldsOpen holds={holds} />}
          {run.phase === "preparing" && open.length > 0 && (
            <p role="status" className="text-quiet">
              {open.length} of {machine.preconditions.length} conditions not met yet.
            </p>
          )}
          <Button
            tone={run.phase === "running" ? "danger" : "quiet"}
            disabled={end.isPending}
            onClick={() => end.mutate()}
          >
            {run.phase === "running" ? "Stop now" : "Disconnect"}
          </Button>
          {run.phase === "preparing" && (
            <Button
              tone="primary"
              data-primary
              disabled={open.length > 0 || holds.open.length > 0 || begin.isPending || begin.isSuccess}
              onClick={() => begin.mutate()}
            >
              Start
            </Button>
          )}
        </div>
      )}
    </section>
  );
}
