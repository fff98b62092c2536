import type { PlanOfJob } from "@gearsense/contract";
import type { EntryOf } from "@gearsense/core/job";
import { openSteps, type Plan as Planned } from "@gearsense/core/procedure";
import clsx from "clsx";
import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import { useCatalogue, usePlan, useSession } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { Button, Notice } from "../shared/controls.tsx";
import { Extras } from "./Extras.tsx";
import { hours } from "./hours.ts";
import { PlanBars } from "./PlanBars.tsx";
import { PLACES } from "./places.ts";
import { StepCard } from "./StepCard.tsx";
import { Supply } from "./Supply.tsx";
import { useTicks } from "./useTicks.ts";
import { Ways } from "./Ways.tsx";

/** The decision as steps: what may be done now, one of them large, and what is done. */
export function Plan() {
  const { job } = useJob();
  const { data, error } = usePlan(job.id);
  if (error)
    return (
      <Notice tone="stop" title="The plan cannot be made" live>
        {error.message}
      </Notice>
    );
  if (!data) return <p role="status">Making the plan …</p>;
  if (data.steps.length === 0)
    return <p className="text-quiet">No procedure does this repair yet: record what was done below.</p>;
  return <Steps data={data} />;
}

function Steps({ data }: { data: PlanOfJob }) {
  const { job, state, mayEdit } = useJob();
  const { data: session } = useSession();
  const { data: catalogue } = useCatalogue(job.id);
  const titleOf = (repair: string) => catalogue?.repairs.find((r) => r.id === repair)?.title ?? repair;
  const [chosen, setChosen] = useState<string | undefined>();
  const shown = useRef<string | undefined>(undefined);
  const done = new Map(state.steps.map((s) => [s.body.step, s]));
  const ticks = useTicks(job.id);
  const myId = session?.account.id;
  const onWay = ticks.waiting.filter((t) => !t.refused && t.by === myId);
  const others = [...new Set(ticks.waiting.filter((t) => t.by !== myId).map((t) => t.name))];
  const refused = ticks.waiting.filter((t) => t.refused);
  const doneKeys = new Set([...done.keys(), ...onWay.flatMap((t) => (t.kind === "step" ? [t.body.step] : []))]);
  const rank = new Map(data.order.map((o, i) => [o.key, i]));
  const open = openSteps(data, doneKeys).sort((a, b) => (rank.get(a.key) ?? 0) - (rank.get(b.key) ?? 0));
  const now = open.find((s) => s.key === chosen) ?? open[0];
  const me = session?.account.name;
  // the step that stood here was ticked by somebody else: said, for the card goes on to the next
  useEffect(() => {
    const other = state.steps.find((s) => s.body.step === shown.current && s.author !== me);
    if (other) toast(`${other.author} has ticked “${other.body.title}” meanwhile.`);
    shown.current = now?.key;
  }, [state.steps, me, now?.key]);
  // which way it goes is chosen before the first step; then the step stands at the top
  const begun = doneKeys.size > 0;
  const own = data.steps.filter((s) => doneKeys.has(s.key)).length;
  const left = data.steps.filter((s) => !doneKeys.has(s.key));
  return (
    <section aria-label="Plan" className="flex flex-col gap-3">
      <div className="flex flex-wrap items-end justify-between gap-3">
        <div>
          <h2 className="text-xl">Plan</h2>
          <p className="text-quiet">
            {own} of {data.steps.length} steps done;{" "}
            {left.length > 0
              ? `about ${hours(left.reduce((s, x) => s + x.minutes[1], 0))} of work left (${hours(left.reduce((s, x) => s + x.minutes[0], 0))} to ${hours(left.reduce((s, x) => s + x.minutes[2], 0))})`
              : "all of it"}
            .
          </p>
        </div>
        <Taken steps={state.steps} planned={data} />
      </div>
      {data.without.length > 0 && (
        <Notice tone="caution">
          No procedure does this yet, it is not part of the plan: {data.without.map(titleOf).join(", ")}.
        </Notice>
      )}
      {onWay.length > 0 && (
        <p role="status" className="border-l-4 border-caution bg-caution-wash p-2">
          {onWay.length === 1 ? "1 tick is" : `${onWay.length} ticks are`} kept on this device and sent when there is a
          network.
        </p>
      )}
      {others.length > 0 && (
        <Notice tone="caution">
          This device keeps ticks of {others.join(" and ")}: they are sent when {others.join(" or ")} signs in here.
        </Notice>
      )}
      {refused.map((t) => (
        <Notice
          key={t.id}
          tone="stop"
          title={`“${t.title}” was not accepted`}
          live
          actions={
            <>
              <Button onClick={() => void ticks.again(t)}>Send again</Button>
              <Button onClick={() => void ticks.drop(t)}>Drop</Button>
            </>
          }
        >
          {t.refused}
        </Notice>
      ))}
      {!begun && <Ways data={data} disabled={!mayEdit} />}
      <div className={clsx("grid gap-4", (open.length > 1 || state.steps.length > 0) && "xl:grid-cols-[1fr_280px]")}>
        {now ? (
          <StepCard
            key={now.key}
            plan={data as unknown as Planned}
            step={now}
            onTick={ticks.tick}
            onDone={() => setChosen(undefined)}
          />
        ) : (
          <p className="border border-clear bg-clear-wash p-4 text-lg">Every step of the plan is done.</p>
        )}
        <div className="flex flex-col gap-4">
          {open.length > 1 && (
            <nav aria-label="Possible now">
              <h3 className="text-lg">Possible now</h3>
              <ul>
                {open.map((s) => (
                  <li key={s.key}>
                    <button
                      type="button"
                      aria-current={s.key === now?.key ? "step" : undefined}
                      onClick={() => setChosen(s.key)}
                      className={clsx(
                        "flex min-h-11 w-full items-center justify-between gap-2 border-b border-rule px-2 text-left",
                        s.key === now?.key && "bg-action-wash",
                      )}
                    >
                      <span>{s.title}</span>
                      <span className="text-sm whitespace-nowrap text-quiet">{PLACES[s.place]}</span>
                    </button>
                  </li>
                ))}
              </ul>
            </nav>
          )}
          {state.steps.length > 0 && <Done steps={state.steps} />}
        </div>
      </div>
      {begun && data.ways.length > 0 && (
        <details className="border border-rule bg-panel p-3">
          <summary className="label flex min-h-11 cursor-pointer items-center text-lg">
            Way: {data.ways.map((w) => w.of.find((o) => o.id === w.chosen)?.title).join("; ")}
          </summary>
          <Ways data={data} disabled={!mayEdit} />
        </details>
      )}
      <Extras data={data} disabled={!mayEdit} />
      <PlanBars data={data} done={doneKeys} steps={state.steps} />
      <Supply />
    </section>
  );
}

function Taken({ steps, planned }: { steps: readonly EntryOf<"step">[]; planned: PlanOfJob }) {
  const timed = steps.filter((s) => s.body.minutes !== null);
  if (timed.length === 0) return null;
  const real = timed.reduce((sum, s) => sum + (s.body.minutes ?? 0), 0);
  const likely = timed.reduce((sum, s) => sum + (planned.steps.find((p) => p.key === s.body.step)?.minutes[1] ?? 0), 0);
  return (
    <p className="figures">
      {hours(real)} taken, {hours(likely)} planned for these
    </p>
  );
}

function Done({ steps }: { steps: readonly EntryOf<"step">[] }) {
  const newest = [...steps].sort((a, b) => b.seq - a.seq);
  return (
    <details>
      <summary className="label flex min-h-11 cursor-pointer items-center text-lg">Done ({steps.length})</summary>
      <ul>
        {newest.map((s) => (
          <li key={s.id} className="border-b border-rule py-1.5">
            <span>{s.body.title}</span>
            <span className="block text-sm text-quiet">
              {[
                s.author,
                s.body.minutes === null ? "" : `${s.body.minutes} min`,
                ...s.body.values.map((v) => `${v.name} ${v.value}`),
                ...s.body.trouble,
                s.body.overridden ? `hold overridden: ${s.body.overridden}` : "",
              ]
                .filter(Boolean)
                .join(" · ")}
            </span>
          </li>
        ))}
      </ul>
      <p className="text-sm text-quiet">A tick is taken back on the timeline; U takes back your last one.</p>
    </details>
  );
}
