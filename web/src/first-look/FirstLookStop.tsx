import { firstLookSoFar, quickChecksFor } from "@gearsense/core/observe";
import { Timer } from "lucide-react";
import { useMemo, useState } from "react";
import { useObservations } from "../api/queries.ts";
import { FluidCondition } from "../fluid/FluidCondition.tsx";
import { Contradictions } from "../job/Contradictions.tsx";
import { useJob } from "../job/job-context.tsx";
import { Heading } from "../shared/controls.tsx";
import { Codes } from "./Codes.tsx";
import { LevelForm } from "./LevelForm.tsx";
import { RungCard } from "./RungCard.tsx";

/** Checks that cost minutes, chosen by the unit and the complaint. */
export default function FirstLookStop() {
  const { job, state } = useJob();
  const { data } = useObservations();
  const [open, setOpen] = useState<string | undefined>();
  const symptoms = state.intake?.body.symptoms;
  const steps = useMemo(
    () => (data ? quickChecksFor(job.unit, symptoms ?? [], data.rungs) : []),
    [data, job.unit, symptoms],
  );
  const soFar = firstLookSoFar(state, steps);
  const known = new Set(state.observations.map((o) => o.body.rung));
  const left = steps.filter((s) => s.relevant && !known.has(s.rung.id));
  const own = steps.filter((s) => s.relevant);
  const rest = steps.filter((s) => !s.relevant);
  return (
    <>
      <Heading
        title="First look"
        actions={
          <p className="figures flex min-h-11 items-center gap-2 border border-rule bg-panel px-3 text-lg">
            <Timer aria-hidden="true" className="size-5" />
            {Math.round(soFar.minutes)} min spent · about {left.reduce((m, s) => m + s.rung.minutes, 0)} left
          </p>
        }
      >
        Minutes that rule out most false trails: level and condition before anything else.
      </Heading>
      <div className="flex flex-col gap-5">
        <Contradictions />
        <LevelForm />
        <FluidCondition />
        <section aria-label="Quick checks">
          <h2 className="text-xl">Quick checks</h2>
          <p className="mb-2 text-quiet">
            Chosen by the unit and the complaint, quickest first. One may be skipped, with a reason.
          </p>
          <ol className="flex flex-col">
            {own.map((s) => (
              <RungCard
                key={s.rung.id}
                step={s}
                open={open === s.rung.id}
                onOpen={(o) => setOpen(o ? s.rung.id : undefined)}
              />
            ))}
          </ol>
          {soFar.open.length > 0 && (
            <p className="mt-2 border-l-4 border-caution bg-caution-wash px-3 py-2">
              Left open: {soFar.open.map((o) => `${o.leavesOpen} (${o.reason})`).join("; ")}.
            </p>
          )}
          {rest.length > 0 && (
            <details className="mt-3">
              <summary className="label min-h-11 content-center">Others, not of this complaint · {rest.length}</summary>
              <ol className="flex flex-col">
                {rest.map((s) => (
                  <RungCard
                    key={s.rung.id}
                    step={s}
                    open={open === s.rung.id}
                    onOpen={(o) => setOpen(o ? s.rung.id : undefined)}
                  />
                ))}
              </ol>
            </details>
          )}
        </section>
        <Codes />
      </div>
    </>
  );
}
