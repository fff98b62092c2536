import type { SuspectsView } from "@gearsense/contract";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useSuspects } from "../api/queries.ts";
import { Contradictions } from "../job/Contradictions.tsx";
import { useJob } from "../job/job-context.tsx";
import { LevelMissing } from "../job/LevelMissing.tsx";
import { Weights } from "../job/OddsStrip.tsx";
import { Button, EmptyState, Heading, Notice } from "../shared/controls.tsx";
import { percent } from "../shared/percent.ts";
import { useMoney } from "../shared/useMoney.ts";
import { ApplicationChart } from "./ApplicationChart.tsx";
import { CheckTree } from "./CheckTree.tsx";
import { RecordCheck } from "./RecordCheck.tsx";
import { chartSentence, stuckSentence } from "./suspects-text.ts";

type NextCheck = SuspectsView["advice"]["checks"][number];

/** What explains it, what speaks for and against, and which check to make next. */
export default function SuspectsStop() {
  const { job, state, mayEdit } = useJob();
  const { data, error } = useSuspects(job.id);
  const money = useMoney();
  const [recording, setRecording] = useState<NextCheck | undefined>();
  if (error)
    return (
      <Notice tone="stop" title="The suspects cannot be computed" live>
        {error.message}
      </Notice>
    );
  if (!data) return <p role="status">Computing the suspects …</p>;
  if (data.evidence.length === 0)
    return (
      <EmptyState title="Nothing is known yet">
        Record the complaint's signs, the fluid level and a log of the drive: each moves the odds.
      </EmptyState>
    );
  const sentence = chartSentence(job.unit, data.chart);
  const stuck = stuckSentence(job.unit, data.chart);
  const top = data.ranking.suspects[0];
  // the level comes before anything else: no odds are worth a costlier step without it
  const levelFirst = data.levelKnown ? undefined : data.advice.checks.find((c) => c.check.id === "level");
  const next = levelFirst ?? data.advice.checks[0];
  const repair = data.advice.options[0];
  // without a drive the odds rest on words: no check beyond the level is worth more than a log
  const scanFirst = !levelFirst && state.analyses.length === 0;
  const actNow = data.advice.act === "repair" && !levelFirst && !scanFirst;
  const step: Step = scanFirst ? { kind: "scan" } : actNow ? { kind: "decide" } : { kind: "check", next };
  const worthwhile = repair
    ? data.advice.checks.filter((c) => c !== next && c.expectedCost < repair.expectedCost).slice(0, 5)
    : [];
  const others = data.advice.checks.filter((c) => c !== next && !worthwhile.includes(c));
  return (
    <>
      <Heading
        title={sentence.title}
        actions={mayEdit && <PrimaryAction step={step} job={job.id} onCheck={setRecording} />}
      >
        {sentence.detail}
      </Heading>
      <div className="flex flex-col gap-4">
        <Contradictions />
        {!data.levelKnown && (
          <LevelMissing>Whole units have been changed for a low level. It comes before every other check.</LevelMissing>
        )}
        {stuck && (
          <Notice tone="plain" title={stuck.title}>
            {stuck.detail}
          </Notice>
        )}
        <div className="grid gap-4 xl:grid-cols-[minmax(0,5fr)_minmax(0,6fr)]">
          <ApplicationChart unit={job.unit} chart={data.chart} />
          <section aria-label="Next step" className="flex flex-col gap-3 border border-rule p-3">
            <h2 className="text-xl">
              {levelFirst
                ? "First of all"
                : actNow
                  ? "Enough is known: act"
                  : "Next check, by expected cost to a right repair"}
            </h2>
            {scanFirst ? (
              <p>
                Reproduce the complaint on a quiet road with the scan tool recording and somebody else at the wheel. The
                log tells: good gears clear elements, bad gears accuse them.
              </p>
            ) : actNow && repair ? (
              <>
                <p className="label text-lg">{repair.repair.title}</p>
                <p className="figures text-lg">
                  cures {percent(repair.cures)} · {money(repair.cost)} · expected {money(repair.expectedCost)} in all
                </p>
                <p className="text-quiet">No open check would lower the expected cost.</p>
                <h3 className="text-[17px]">Instead</h3>
                <ul>
                  {data.advice.options.slice(1, 4).map((o) => (
                    <li key={o.repair.id} className="border-b border-rule py-1.5">
                      {o.repair.title}
                      <span className="figures block text-[15px] text-quiet">
                        cures {percent(o.cures)} · {money(o.cost)} · expected {money(o.expectedCost)} in all
                      </span>
                    </li>
                  ))}
                </ul>
              </>
            ) : (
              next && (
                <>
                  <CheckTree next={next} money={money} />
                  {!levelFirst && repair && (
                    <p className="text-quiet">
                      Expected {money(next.expectedCost)} with this check; {money(repair.expectedCost)} when acting now
                      ({repair.repair.title}).
                    </p>
                  )}
                </>
              )
            )}
            {worthwhile.length > 0 && (
              <CheckList
                title="Also worth making"
                list={worthwhile}
                money={money}
                onPick={mayEdit ? setRecording : undefined}
              />
            )}
            <details>
              <summary className="label cursor-pointer">All other checks ({others.length})</summary>
              <CheckList title="" list={others} money={money} onPick={mayEdit ? setRecording : undefined} />
            </details>
          </section>
        </div>
        {top && (
          <div className="grid gap-6 lg:grid-cols-2">
            <Weights title={`Speaks for: ${top.title}`} list={top.speaksFor} tone="text-action" most={5} />
            <div>
              <Weights title="Speaks against it" list={top.speaksAgainst} tone="text-clear" most={5} />
              {top.unexplained.length > 0 && (
                <p className="mt-2">It leaves unexplained: {top.unexplained.join("; ")}.</p>
              )}
            </div>
          </div>
        )}
        {state.checks.length > 0 && (
          <section aria-label="Checks made">
            <h2 className="text-xl">Checks made</h2>
            <ul>
              {state.checks.map((c) => (
                <li key={c.id} className="flex justify-between gap-4 border-b border-rule py-1.5">
                  <span>{c.body.title}</span>
                  <span>
                    <span className="label">{c.body.outcomeLabel}</span>
                    {c.body.note && <span className="text-quiet"> · {c.body.note}</span>}
                  </span>
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
      {recording && <RecordCheck check={recording.check} onClose={() => setRecording(undefined)} />}
    </>
  );
}

type Step =
  | { readonly kind: "scan" }
  | { readonly kind: "decide" }
  | { readonly kind: "check"; readonly next: NextCheck | undefined };

function PrimaryAction({ step, job, onCheck }: { step: Step; job: string; onCheck: (c: NextCheck) => void }) {
  const navigate = useNavigate();
  if (step.kind === "check") {
    const { next } = step;
    return (
      next && (
        <Button tone="primary" data-primary onClick={() => onCheck(next)}>
          Make this check
        </Button>
      )
    );
  }
  const [label, stop] = step.kind === "scan" ? ["Import a log", "scan"] : ["Decide", "decide"];
  return (
    <Button tone="primary" data-primary onClick={() => void navigate(`/jobs/${job}/${stop}`)}>
      {label}
    </Button>
  );
}

function CheckList({
  title,
  list,
  money,
  onPick,
}: {
  title: string;
  list: readonly NextCheck[];
  money: (n: number) => string;
  onPick: ((c: NextCheck) => void) | undefined;
}) {
  return (
    <div>
      {title && <h3 className="text-[17px]">{title}</h3>}
      <ul>
        {list.map((c) => (
          <li key={c.check.id} className="flex items-center justify-between gap-3 border-b border-rule">
            <span className="min-w-0 py-1.5">
              {c.check.title}
              <span className="figures block text-[15px] text-quiet">
                {c.check.minutes} min · {money(c.cost)} · {c.check.intrusiveness}
              </span>
            </span>
            {onPick && (
              <Button tone="quiet" onClick={() => onPick(c)} aria-label={`Record: ${c.check.title}`}>
                Record
              </Button>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}
