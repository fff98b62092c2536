import { neverChanged } from "@gearsense/core/fluid";
import type { EntryBodies } from "@gearsense/core/job";
import type { Unit } from "@gearsense/core/unit";
import { addDays, formatISO } from "date-fns";
import { useMemo, useState } from "react";
import { useAnalysis, useSession } from "../api/queries.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Button, Heading } from "../shared/controls.tsx";
import { useDraft } from "../shared/useDraft.ts";
import { type BenchValue, emptyBench, type Worked } from "./bench-model.ts";
import { FluidBench } from "./FluidBench.tsx";
import { type Consent, TwoSchools } from "./TwoSchools.tsx";

type Plan = EntryBodies["fluid-plan"];

const planOf = (worked: Worked, toFill: string, odometerKm: number): Plan => ({
  way: worked.chosen.kind,
  times: worked.chosen.times,
  litres: Math.round(worked.chosen.litres * 100) / 100,
  fresh: worked.chosen.fresh,
  minutes: Math.round(worked.chosen.minutes),
  cost: Math.round(worked.chosen.cost),
  fluid: toFill,
  intervalKm: worked.interval.km,
  reasons: worked.interval.reasons.map((r) => r.why),
  followUps: worked.due.map((d) => ({
    what: d.what,
    dueOn: d.inDays === null ? null : formatISO(addDays(new Date(), d.inDays), { representation: "date" }),
    dueKm: d.inKm === null ? null : odometerKm + d.inKm,
    why: d.why,
  })),
  note: "",
});

/** The fluid bench with what the job knows already: reading, drained volume, duty, burnt or wet fluid. */
export default function FluidStop() {
  const { job, state, mayEdit } = useJob();
  const { data: session } = useSession();
  const { level, pan, fluid, intake } = state;
  const initial = useMemo((): BenchValue => {
    const duty: BenchValue["duty"][number][] = [];
    if (intake?.body.duty?.includes("tow")) duty.push("towing");
    if (intake?.body.duty?.includes("taxi")) duty.push("stopAndGo");
    if (intake?.body.duty?.includes("hills")) duty.push("hills");
    if (fluid?.body.smell === "burnt") duty.push("fluidWasBurnt");
    if (fluid?.body.colour === "milky" || fluid?.body.cloudiness === "milky") duty.push("waterWasFound");
    return {
      ...emptyBench(job.unit),
      fluidC: level?.body.fluidC ?? null,
      litresFromFull: level?.body.litresFromFull ?? null,
      drainL: pan?.body.drainedL ?? job.unit.fluid.panDrainL,
      duty,
    };
  }, [job.unit, level, pan, fluid, intake]);
  const log = state.logs.find((l) => state.analyses.some((a) => a.body.logId === l.body.logId));
  const { data: analysed } = useAnalysis(job.id, log?.body.logId);
  const measured = useMemo(() => {
    const heat = analysed?.analysis.heat;
    return heat?.sensor === "fluid" ? heat.spells : [];
  }, [analysed]);
  const draft = useDraft<BenchValue>(`${job.id}.fluid-bench`, initial);
  const told = intake?.body.history?.some((h) => h.kind === "fluid") ?? false;
  const old = neverChanged(
    job.unit as Unit,
    job.odometerKm,
    pan?.body.kmSinceService ?? null,
    told,
    fluid?.body.colour,
  );
  const [consent, setConsent] = useState<Consent>({
    choice: state.fluidPlan?.body.consent?.choice,
    by: state.fluidPlan?.body.consent?.by ?? "",
  });
  const form = useEntryForm<Plan>("fluid-plan", "fluid-plan", state.fluidPlan, {} as Plan);
  return (
    <>
      <Heading title="Fluid">Level, age, the cheapest way to fresh fluid, and when it is due again.</Heading>
      <FormStatus form={form} />
      {old && (
        <TwoSchools value={consent} onChange={setConsent} disabled={!mayEdit} error={form.errors["consent.by"]} />
      )}
      <FluidBench
        unit={job.unit}
        value={draft.value}
        onChange={draft.set}
        hourlyRate={session?.shop.hourlyRate ?? 0}
        odometerKm={job.odometerKm}
        measured={measured}
        title={`Job ${job.number}, ${job.vehicle.name}`}
        actions={(worked) =>
          mayEdit && (
            <Button
              tone="primary"
              data-primary
              disabled={form.pending || (old && !consent.choice)}
              onClick={() =>
                void form.submit({
                  ...planOf(worked, draft.value.toFill, job.odometerKm),
                  ...(old && consent.choice ? { consent: { choice: consent.choice, by: consent.by } } : {}),
                })
              }
            >
              Store this plan
            </Button>
          )
        }
      />
    </>
  );
}
