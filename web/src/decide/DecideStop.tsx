import { decisionEntry } from "@gearsense/core/suspect";
import clsx from "clsx";
import { Link, useNavigate } from "react-router";
import { useSuspects } from "../api/queries.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { LevelMissing } from "../job/LevelMissing.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Button, Heading, Notice, TextArea } from "../shared/controls.tsx";
import { useMoney } from "../shared/useMoney.ts";

const SHOWN = 8;
const SET_ASIDE = 12;

/** Repairs by expected total cost; the choice is recorded with its reason and the odds it was taken on. */
export default function DecideStop() {
  const { job, state, mayEdit } = useJob();
  const { data } = useSuspects(job.id);
  const money = useMoney();
  const navigate = useNavigate();
  const standing = state.decision;
  const form = useEntryForm("decision", "decision", standing, {
    repairId: standing?.body.repairId ?? "",
    reason: standing?.body.reason ?? "",
  });
  if (!data) return <p role="status">Computing the options …</p>;
  const { options, checks, act } = data.advice;
  const useful = options.filter((o) => o.cures > 0.01);
  const shown = useful.slice(0, SHOWN);
  const chosen = options.find((o) => o.repair.id === form.value.repairId);
  const aside = options.filter((o) => !useful.includes(o) && o !== chosen).slice(0, SET_ASIDE);
  const picked = chosen && !shown.includes(chosen) ? [...shown, chosen] : shown;
  const best = options[0];
  const store = async () => {
    if (!chosen) return;
    if (await form.submit(decisionEntry(data.ranking, chosen, form.value.reason, data.levelKnown)))
      await navigate(`/jobs/${job.id}/work`);
  };
  return (
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
            <Button tone="primary" type="submit" disabled={!chosen || form.pending} data-primary>
              {standing ? "Change the decision" : "Decide so"}
            </Button>
          )
        }
      >
        Expected cost counts what happens when the repair does not cure: the comeback and the next repair.
      </Heading>
      <div className="flex flex-col gap-4">
        {!data.levelKnown && (
          <LevelMissing>
            {chosen?.repair.costly
              ? `${chosen.repair.title} is costly: record the level before it.`
              : "Costly steps warn until it is."}
          </LevelMissing>
        )}
        {act === "check" && checks[0] && best && (
          <Notice
            tone="plain"
            title={`A check still pays: ${checks[0].check.title}`}
            actions={
              <Link className="label inline-flex min-h-11 items-center underline" to={`/jobs/${job.id}/suspects`}>
                Go to it
              </Link>
            }
          >
            Expected {money(checks[0].expectedCost)} with it, {money(best.expectedCost)} without.
          </Notice>
        )}
        <FormStatus form={form} />
        <fieldset disabled={!mayEdit}>
          <legend className="sr-only">Repair</legend>
          <table className="w-full text-left">
            <thead>
              <tr className="border-b border-ink">
                <th className="py-1">Repair</th>
                <th>Cures</th>
                <th>Hours</th>
                <th>Parts</th>
                <th>Cost</th>
                <th>Expected in all</th>
                <th>Access</th>
              </tr>
            </thead>
            <tbody>
              {picked.map((o) => (
                <tr
                  key={o.repair.id}
                  className={clsx("border-b border-rule", form.value.repairId === o.repair.id && "bg-action-wash")}
                >
                  <td className="pr-2">
                    <label className="flex min-h-12 cursor-pointer items-center gap-2.5">
                      <input
                        type="radio"
                        name="repair"
                        className="size-5 shrink-0 accent-(--action)"
                        checked={form.value.repairId === o.repair.id}
                        onChange={() => form.set({ repairId: o.repair.id })}
                      />
                      <span className="label text-[17px] leading-5">{o.repair.title}</span>
                    </label>
                  </td>
                  <td className="figures pr-2 text-lg">{Math.round(o.cures * 100)} %</td>
                  <td className="figures pr-2 whitespace-nowrap">
                    {o.repair.hours[1]}{" "}
                    <span className="text-quiet">
                      ({o.repair.hours[0]}–{o.repair.hours[2]})
                    </span>
                  </td>
                  <td className="figures pr-2">{money(o.repair.partsCost)}</td>
                  <td className="figures pr-2 text-lg">{money(o.cost)}</td>
                  <td className="figures pr-2 text-lg">{money(o.expectedCost)}</td>
                  <td className="text-sm text-quiet">{o.repair.intrusiveness}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <div className="mt-4">
            <TextArea
              label="Reason"
              hint="Why this repair and not the cheapest or the likeliest: the next person will ask."
              value={form.value.reason}
              onChange={(e) => form.set({ reason: e.target.value })}
              error={form.errors.reason}
            />
          </div>
        </fieldset>
        {aside.length > 0 && (
          <section aria-label="Set aside">
            <h2 className="text-xl">Set aside</h2>
            <p className="text-quiet">By what is known now, none of these cures in one case of a hundred.</p>
            <ul className="mt-1 grid gap-x-8 sm:grid-cols-2">
              {aside.map((o) => (
                <li key={o.repair.id} className="flex items-baseline justify-between gap-3 border-b border-rule py-1.5">
                  {o.repair.title}
                  <span className="figures text-quiet">{money(o.cost)}</span>
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
    </form>
  );
}
