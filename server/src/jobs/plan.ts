import type { NewEntryInput, PlanOfJob } from "@gearsense/contract";
import { type Entry, foldJob, type JobState } from "@gearsense/core/job";
import {
  choicesOf,
  type Plan,
  type PlanStep,
  type Procedure,
  planOf,
  suggestedOrder,
  tickProblem,
  untickProblem,
} from "@gearsense/core/procedure";
import type { Unit } from "@gearsense/core/unit";
import { HttpError } from "../http/errors.ts";

function planned(procedures: readonly Procedure[], unit: Unit, state: JobState, ways?: readonly string[]) {
  const { decision } = state;
  if (!decision)
    throw new HttpError(409, "nothing-decided", "Nothing is decided yet: the plan is made from the decision.");
  return planOf(procedures, unit, decision.body.repairId.split("+"), ways ?? state.plan?.body.ways ?? []);
}

/** The plan of a job, with the unit as the job has it. @throws HttpError 409 `nothing-decided` */
export function planView(procedures: readonly Procedure[], unit: Unit, state: JobState): PlanOfJob {
  const { plan, without } = planned(procedures, unit, state);
  if (!plan) return { without: [...without], steps: [], order: [], totalMin: 0, ways: [] };
  const order = suggestedOrder(plan.steps);
  return {
    without: [...without],
    steps: plan.steps as unknown as PlanOfJob["steps"],
    order: order.steps.map(({ liftTo, ...s }) => ({ ...s, ...(liftTo ? { liftTo } : {}) })),
    totalMin: order.totalMin,
    ways: choicesOf(procedures, unit, plan).map((c) => ({
      end: c.end,
      chosen: c.chosen.id,
      of: c.ways.map(({ id, title }) => ({ id, title })),
    })),
  };
}

const doneOf = (state: JobState) => new Set(state.steps.map((s) => s.body.step));

/**
 * What may not be written of a plan as the timeline stands: a step before what it waits for, a hold that nothing opens, a tick
 * taken back under what was done because of it, ways that leave done steps without a place.
 * @throws HttpError 409 `not-yet`
 */
export function checkPlan(
  procedures: readonly Procedure[],
  unit: Unit,
  entries: readonly Entry[],
  input: Pick<NewEntryInput, "kind" | "body">,
): void {
  const refuse = (problem: string | undefined) => {
    if (problem) throw new HttpError(409, "not-yet", `${problem}. Nothing was stored.`);
  };
  if (input.kind === "step") {
    const state = foldJob(entries);
    const body = input.body as Extract<NewEntryInput, { kind: "step" }>["body"];
    const { plan } = planned(procedures, unit, state);
    const values = Object.fromEntries(body.values.map((v) => [v.id, v.value]));
    const done = doneOf(state);
    done.delete(body.step);
    refuse(
      plan
        ? tickProblem(unit, plan, done, body.step, values, body.overridden)
        : "No procedure does what was decided: there is no plan to tick",
    );
  } else if (input.kind === "plan") {
    const state = foldJob(entries);
    const { ways } = input.body as Extract<NewEntryInput, { kind: "plan" }>["body"];
    const { plan } = planned(procedures, unit, state, ways);
    const lost = state.steps.filter((s) => !plan?.steps.some((x: PlanStep) => x.key === s.body.step));
    const before = planned(procedures, unit, state).plan as Plan | undefined;
    const own = lost.filter((s) => before?.steps.some((x) => x.key === s.body.step)).map((s) => s.body.title);
    refuse(own.length > 0 ? `Steps of the chosen way are done already: ${own.slice(0, 3).join("; ")}` : undefined);
  } else if (input.kind === "retraction") {
    const { entryId } = input.body as Extract<NewEntryInput, { kind: "retraction" }>["body"];
    const target = entries.find((e) => e.id === entryId);
    const state = foldJob(entries);
    if (target?.kind !== "step" || !state.decision) return;
    const { plan } = planned(procedures, unit, state);
    refuse(plan && untickProblem(plan, doneOf(state), target.body.step));
  }
}
