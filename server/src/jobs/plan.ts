import type { NewEntryInput } from "@gearsense/contract";
import { type FillState, fillProblem, fillState } from "@gearsense/core/fluid";
import { type Entry, foldJob, type JobState } from "@gearsense/core/job";
import {
  emptyStart,
  FIRST_START,
  type Plan,
  type PlanStep,
  type Procedure,
  planOf,
  tickProblem,
  untickProblem,
} from "@gearsense/core/procedure";
import type { Unit } from "@gearsense/core/unit";
import { HttpError } from "../http/errors.ts";

function planned(
  procedures: readonly Procedure[],
  unit: Unit,
  state: JobState,
  chosen: { readonly ways: readonly string[]; readonly extras?: readonly string[] | undefined } = state.plan?.body ?? {
    ways: [],
  },
) {
  const { decision } = state;
  if (!decision)
    throw new HttpError(409, "nothing-decided", "Nothing is decided yet: the plan is made from the decision.");
  return planOf(procedures, unit, decision.body.repairId.split("+"), chosen.ways, chosen.extras ?? []);
}

/** Keys of the steps that are ticked. */
export const doneOf = (state: JobState) => new Set(state.steps.map((s) => s.body.step));

const fillOf = (unit: Unit, state: JobState) =>
  state.emptied &&
  fillState(
    unit,
    state.emptied.body,
    state.filling.map((f) => f.body),
  );
const traysOf = (state: JobState) => new Map(state.trays.map((t) => [t.body.step, t.body.full]));

/** What is told of a fill must fit it as it stands: no pump is started in air. @throws HttpError 409 `not-yet` */
export function checkFilling(unit: Unit, entries: readonly Entry[], input: Pick<NewEntryInput, "kind" | "body">): void {
  if (input.kind !== "filling") return;
  const state = foldJob(entries);
  if (!state.emptied)
    throw new HttpError(
      409,
      "not-yet",
      "Say first what left the unit: what is missing follows from it. Nothing was stored.",
    );
  const body = input.body as Extract<NewEntryInput, { kind: "filling" }>["body"];
  const now = fillOf(unit, state) as FillState;
  const problem = fillProblem(unit, now, body);
  if (problem) throw new HttpError(409, "not-yet", `${problem}. Nothing was stored.`);
}

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
    const empty =
      body.step === FIRST_START && body.overridden.trim() === ""
        ? emptyStart(
            unit,
            fillOf(unit, state),
            state.steps.map((s) => s.body),
          )
        : undefined;
    refuse(empty && `“${body.title}” is on hold: ${empty}. Fill first, or say why you go ahead anyway`);
    refuse(
      plan
        ? tickProblem(unit, plan, done, body.step, values, body.overridden, traysOf(state))
        : "No procedure does what was decided: there is no plan to tick",
    );
  } else if (input.kind === "plan") {
    const state = foldJob(entries);
    const { plan } = planned(procedures, unit, state, input.body as Extract<NewEntryInput, { kind: "plan" }>["body"]);
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
