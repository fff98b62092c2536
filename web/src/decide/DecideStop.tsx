import {
  chosenFrom,
  type Decision,
  type Figures,
  horizonOf,
  LEAVE_ID,
  SELL_ID,
  SELL_SHARE,
} from "@gearsense/core/decide";
import type { Wish } from "@gearsense/core/job";
import { formatHours, percent } from "@gearsense/core/quantity";
import { decidedOption } from "@gearsense/core/report";
import { decisionEntry } from "@gearsense/core/suspect";
import clsx from "clsx";
import { Fragment, lazy, Suspense, useState } from "react";
import { Link, useNavigate } from "react-router";
import { useSession, useSuspects } from "../api/queries.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { LevelMissing } from "../job/LevelMissing.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Button, Heading, Notice, Progress, TextArea } from "../shared/controls.tsx";
import { useMoney } from "../shared/useMoney.ts";
import { Approval } from "./Approval.tsx";
import { ComparedWith } from "./ComparedWith.tsx";
import { Estimate } from "./Estimate.tsx";
import { OriginOf } from "./OriginOf.tsx";
import { useDecision } from "./useDecision.ts";

const SpreadChart = lazy(() => import("./SpreadChart.tsx"));

const WISHES: Record<Wish, string> = {
  "keep-long": "wants to keep it long",
  "cheap-and-safe": "wants it cheap and safe",
  quick: "wants it quickly",
  "sell-soon": "wants to sell it soon",
  "only-know": "wants a diagnosis only",
};

/** What the likely total of an option without a repair is. */
const WITHOUT: Readonly<Record<string, string>> = {
  [LEAVE_ID]: "the repair comes later and dearer, some are towed in",
  [SELL_ID]: `what is lost when it is sold at ${SELL_SHARE * 100} % of its worth`,
};

/** The options by their likely total with comebacks; the choice is recorded with its reason and the odds it was taken on. */
export default function DecideStop() {
  const { job, state, mayEdit } = useJob();
  const { data } = useSuspects(job.id);
  const { data: session } = useSession();
  const money = useMoney();
  const navigate = useNavigate();
  const comparing = useDecision();
  const standing = state.decision;
  const form = useEntryForm("decision", "decision", standing, {
    choice: standing ? `${standing.body.repairId}${standing.body.source ? `@${standing.body.source}` : ""}` : "",
    reason: standing?.body.reason ?? "",
  });
  if (!data || !session) return <p role="status">Computing the options …</p>;
  const decision = comparing.last?.decision;
  const fresh = comparing.state.at === "ready";
  const chosen =
    decision?.figures.find((f) => f.choice.id === form.value.choice) ??
    decision?.figures.find((f) => f.choice.repair?.id === form.value.choice);
  const decided = standing && decision?.figures.find((f) => f.choice.id === decidedOption(standing.body));
  const { checks, options, act } = data.advice;
  const store = async () => {
    if (!chosen || !decision || !fresh) return;
    const body = decisionEntry(data.ranking, chosenFrom(chosen, decision), form.value.reason, data.levelKnown);
    if (await form.submit(body)) await navigate(`/jobs/${job.id}/work`);
  };
  return (
    <div className="flex flex-col gap-4">
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void store();
        }}
      >
        <Heading
          title="Decide"
          actions={
            mayEdit && (
              <Button tone="primary" type="submit" disabled={!chosen || !fresh || form.pending} data-primary>
                {!chosen ? "Choose an option" : standing ? "Change the decision" : "Confirm"}
              </Button>
            )
          }
        >
          Likely total: with the comebacks, and the repairs after them, of vehicles drawn from these odds.
        </Heading>
        <div className="flex flex-col gap-4">
          {!data.levelKnown && (
            <LevelMissing>
              {chosen?.choice.repair?.costly
                ? `${chosen.choice.title} is costly: record the level before it.`
                : "Costly steps warn until it is."}
            </LevelMissing>
          )}
          {act === "check" && checks[0] && options[0] && (
            <Notice
              tone="plain"
              title={`A check still pays: ${checks[0].check.title}`}
              actions={
                <Link className="label inline-flex min-h-11 items-center underline" to={`/jobs/${job.id}/suspects`}>
                  Go to it
                </Link>
              }
            >
              It lowers the likely total by about {money(options[0].expectedCost - checks[0].expectedCost)}.
            </Notice>
          )}
          <Owner />
          <FormStatus form={form} />
          {comparing.state.at === "waiting" && <p role="status">Fetching what is needed to compare …</p>}
          {comparing.state.at === "drawing" && (
            <Progress label="Drawing vehicles" share={comparing.state.share} onCancel={comparing.cancel} />
          )}
          {comparing.state.at === "cancelled" && (
            <Notice
              tone="plain"
              title="The comparison was cancelled"
              actions={<Button onClick={comparing.again}>Compare</Button>}
            >
              Nothing can be chosen before it.
            </Notice>
          )}
          {comparing.state.at === "failed" && (
            <Notice
              tone="stop"
              title="Can’t compare the options"
              actions={<Button onClick={comparing.again}>Try again</Button>}
              live
            >
              {comparing.state.message}
            </Notice>
          )}
          {decision && (
            <section aria-label="Options" aria-busy={!fresh} className="flex flex-col gap-4">
              {!fresh && <p className="text-quiet">The figures below are of before the last change.</p>}
              <Options
                jobId={job.id}
                decision={decision}
                chosen={chosen}
                onChoose={mayEdit ? (choice) => form.set({ choice }) : undefined}
                money={money}
              />
              {comparing.last && <ComparedWith asked={comparing.last.asked} others={comparing.last.others} />}
              {standing && decided?.origin.price && (
                <Estimate
                  key={decided.choice.id}
                  optionId={decided.choice.id}
                  title={decided.choice.title}
                  computed={decided.origin.price.lines}
                />
              )}
              <TextArea
                label="Reason"
                disabled={!mayEdit}
                hint="Why this option and not the cheapest or the likeliest: the next person will ask."
                value={form.value.reason}
                onChange={(e) => form.set({ reason: e.target.value })}
                error={form.errors.reason}
              />
              <div className="grid gap-4 2xl:grid-cols-2">
                <Suspense fallback={<p role="status">Drawing …</p>}>
                  <SpreadChart figures={decision.figures} best={decision.best} money={money} />
                </Suspense>
                <Flips decision={decision} />
              </div>
            </section>
          )}
        </div>
      </form>
      <Approval />
    </div>
  );
}

/** What the owner wants and what the vehicle is worth, where they are known. */
function Owner() {
  const { job, state } = useJob();
  const money = useMoney();
  const { wish, vehicleValue, keepYears, downtimeADay } = state.intake?.body ?? {};
  const horizon = horizonOf(wish, keepYears, downtimeADay);
  return (
    <p>
      {wish ? `The owner ${WISHES[wish]}. ` : "What the owner wants is not recorded. "}
      {vehicleValue == null
        ? "What the vehicle is worth is not recorded. "
        : `The vehicle is worth ${money(vehicleValue)}. `}
      {horizon.keepYears > 0 &&
        `Reckoned with ${horizon.keepYears} ${horizon.keepYears === 1 ? "year" : "years"} of keeping it: warranty counts, and parts that fail early. `}
      {horizon.downtimeADay > 0 && `Each day that it stands counts ${money(horizon.downtimeADay)}. `}
      <Link className="underline" to={`/jobs/${job.id}/intake`}>
        Intake
      </Link>
    </p>
  );
}

function Options({
  jobId,
  decision,
  chosen,
  onChoose,
  money,
}: {
  jobId: string;
  decision: Decision;
  chosen: Figures | undefined;
  /** absent: it is only looked at; where the figures come from can be asked all the same */
  onChoose: ((id: string) => void) | undefined;
  money: (n: number) => string;
}) {
  const [open, setOpen] = useState<string>();
  // a cheaper one that the owner's wish speaks against does not count
  const fits = decision.figures.some((f) => f.against.length > 0);
  return (
    <table className="w-full text-left">
      <thead>
        <tr className="border-b border-ink">
          <th className="py-1">Option</th>
          <th>Cures</th>
          <th>Price</th>
          <th className="pr-2">Likely total with comebacks</th>
          <th className="hidden pr-2 sm:table-cell">Nine in ten under</th>
          <th className="hidden pr-2 sm:table-cell">Chance another was cheaper</th>
          <th className="hidden sm:table-cell">Days</th>
          <th className="hidden sm:table-cell">
            <span className="sr-only">How calculated</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {decision.figures.map((f) => (
          <Fragment key={f.choice.id}>
            <tr className={clsx("border-b border-rule align-top", f === chosen && "bg-action-wash")}>
              <td className="pr-2">
                <label className="flex min-h-12 cursor-pointer items-center gap-2.5">
                  <input
                    type="radio"
                    name="option"
                    className="size-5 shrink-0 accent-(--action)"
                    checked={f === chosen}
                    disabled={!onChoose}
                    onChange={() => onChoose?.(f.choice.id)}
                  />
                  <span className="py-1">
                    <span className="label text-[17px] leading-5">{f.choice.title}</span>
                    {f.choice.id === decision.best && (
                      <span className="label ml-2 text-action">lowest likely total{fits && " that fits"}</span>
                    )}
                    <span className="block text-sm text-quiet sm:hidden">
                      nine in ten under {money(f.p90)}; chance another was cheaper {percent(f.otherCheaper)}
                      {f.choice.repair && `; ${f.days[0].toFixed(0)}–${f.days[1].toFixed(0)} days`}
                    </span>
                    {WITHOUT[f.choice.id] && <span className="block text-sm text-quiet">{WITHOUT[f.choice.id]}</span>}
                    {f.against.map((a) => (
                      <span key={a} className="block text-sm text-stop">
                        not advised: {a}
                      </span>
                    ))}
                    {f === chosen && f.choice.source && (
                      <span className="block text-sm text-quiet">
                        {f.choice.source.why}; {f.choice.source.warrantyMonths} months of warranty;{" "}
                        {f.choice.source.leadDays[0]}–{f.choice.source.leadDays[2]} days to get it
                      </span>
                    )}
                    {f === chosen && f.breakEven !== undefined && (
                      <span className="block text-sm text-quiet">
                        costs as much as the next best when it cures {percent(f.breakEven)}
                      </span>
                    )}
                  </span>
                </label>
              </td>
              <td className="figures py-2.5 pr-2 text-lg">{percent(f.cures)}</td>
              <td className="figures py-2.5 pr-2 whitespace-nowrap">
                {f.choice.repair ? money(f.price) : "–"}
                {f.choice.repair && (
                  <span className="block text-sm text-quiet">
                    {formatHours(f.hours[1])} h ({formatHours(f.hours[0])}–{formatHours(f.hours[2])})
                  </span>
                )}
              </td>
              <td className="figures py-2.5 pr-2 text-lg">{money(f.mean)}</td>
              <td className="figures hidden py-2.5 pr-2 sm:table-cell">{money(f.p90)}</td>
              <td className="figures hidden py-2.5 pr-2 whitespace-nowrap sm:table-cell">{percent(f.otherCheaper)}</td>
              <td className="figures hidden py-2.5 whitespace-nowrap sm:table-cell">
                {f.choice.repair ? `${f.days[0].toFixed(0)}–${f.days[1].toFixed(0)}` : "–"}
              </td>
              <td className="hidden py-1.5 text-right sm:table-cell">
                <button
                  type="button"
                  className="label min-h-11 px-2 leading-5 underline"
                  aria-expanded={open === f.choice.id}
                  aria-label={`Where the figures of ${f.choice.title} come from`}
                  onClick={() => setOpen(open === f.choice.id ? undefined : f.choice.id)}
                >
                  {open === f.choice.id ? "Close" : "How calculated"}
                </button>
              </td>
            </tr>
            {open === f.choice.id && (
              <tr className="border-b border-rule">
                <td colSpan={8} className="pb-2">
                  <OriginOf jobId={jobId} figures={f} decision={decision} money={money} />
                </td>
              </tr>
            )}
          </Fragment>
        ))}
      </tbody>
    </table>
  );
}

/** What would make another option the best. */
function Flips({ decision }: { decision: Decision }) {
  return (
    <section aria-label="What would change the choice">
      <h2 className="text-xl">What would change the choice</h2>
      {decision.flips.length === 0 && <p className="text-quiet">Nothing near: no other option comes close.</p>}
      <ul>
        {decision.flips.map((f) => (
          <li key={f.what} className="border-b border-rule py-1.5">
            <span className="flex justify-between gap-3">
              <span>{f.what}</span>
              <span className="figures whitespace-nowrap">
                {f.now} → {f.at}
              </span>
            </span>
            <span className="block text-sm text-quiet">then: {f.instead}</span>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-sm text-quiet">
        {decision.draws} vehicles drawn, seed {decision.seed}. Chance another was cheaper: how often the best of the
        others would have cost less on the same vehicle.
      </p>
    </section>
  );
}
