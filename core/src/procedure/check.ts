import type { Knowledge } from "../knowledge/index.ts";
import type { Unit } from "../unit/index.ts";
import { NoPlan, type Problem, planTo } from "./compose.ts";
import { cautionsOf, HAZARDS, hazardsOf, type Procedure, type ProcedureStep, stepKey } from "./procedure.ts";
import { fits, LIMIT_NAMES, TRAITS, traitsOf } from "./traits.ts";

type Names = Pick<Knowledge, "cautions" | "holds" | "repairs"> & {
  /** names of what can go wrong; absent: not checked */
  readonly mishaps?: readonly string[] | undefined;
};

/**
 * What is wrong with procedures, by place: unknown names, times out of order, a hazard without its caution, a caution that needs
 * a tick at a step without one; and on every unit that they are for: a circle, a removal that nothing undoes, no way through.
 */
export function checkProcedures(library: readonly Procedure[], units: readonly Unit[], names: Names): Problem[] {
  const problems: Problem[] = [];
  const tell = (place: string, reason: string) => problems.push({ place, reason });
  const keys = new Set(library.flatMap((p) => p.steps.flatMap((s) => [stepKey(p.id, s.id), stepKey(p.end, s.id)])));
  const opened = new Set(library.flatMap((p) => p.steps.flatMap((s) => s.opens ?? [])));
  const ends = new Set(library.map((p) => p.end));
  const repairs = new Set(names.repairs.map((r) => r.id));
  const seen = new Set<string>();
  const checkTraits = (place: string, when: readonly string[] | undefined) => {
    for (const w of when ?? [])
      if (!(TRAITS as readonly string[]).includes(w.replace(/^!/, ""))) tell(place, `no unit has a trait "${w}"`);
  };

  for (const p of library) {
    if (seen.has(p.id)) tell(p.id, "there are two procedures of this id");
    seen.add(p.id);
    checkTraits(p.id, p.when);
    for (const r of p.repairs ?? []) if (!repairs.has(r)) tell(p.id, `no repair is called "${r}"`);
    for (const e of p.includes ?? []) if (!ends.has(e.replace(/\?$/, ""))) tell(p.id, `no procedure leads to "${e}"`);
    const own = new Set<string>();
    for (const s of p.steps) {
      const place = stepKey(p.id, s.id);
      if (own.has(s.id)) tell(place, "there are two steps of this id");
      own.add(s.id);
      checkTraits(place, s.when);
      for (const ref of [...(s.after ?? []), ...(s.undoes ? [s.undoes] : [])])
        if (!keys.has(stepKey(p.id, ref)) && !keys.has(stepKey(p.end, ref))) tell(place, `no step is called "${ref}"`);
      for (const m of s.mishaps ?? [])
        if (names.mishaps && !names.mishaps.includes(m)) tell(place, `no mishap is called "${m}"`);
      for (const n of s.needs ?? []) if (!opened.has(n)) tell(place, `no step opens "${n}"`);
      checkStep(place, s, names, tell);
      const where = units.filter((u) => fits(traitsOf(u), p.when) && fits(traitsOf(u), s.when));
      for (const f of s.fasteners ?? [])
        if (where.length > 0 && !where.some((u) => u.fasteners?.some((x) => x.id === f)))
          tell(place, `no unit that it is for has fasteners "${f}"`);
    }
  }
  // on a unit only what is sound by itself is put together
  if (problems.length > 0) return problems;
  for (const u of units)
    for (const p of library.filter((x) => fits(traitsOf(u), x.when)))
      try {
        // an extra goes with whatever opens the way to it
        const beside = p.extra ? openersOf(library, u, p) : [];
        const plan = planTo(library, u, [...beside, p.end], p.extra ? [] : [p.id]);
        if (!plan.steps.some((s) => s.procedure === p.id)) tell(p.id, `${u.name} has no step of it`);
      } catch (error) {
        if (!(error instanceof NoPlan)) throw error;
        for (const { place, reason } of error.problems) tell(place, `${reason} (${u.name}, on the way of ${p.id})`);
      }
  return problems.filter((a, i) => problems.findIndex((b) => b.place === a.place && b.reason === a.reason) === i);
}

/** Ends of procedures that open what an extra needs, on a unit. */
function openersOf(library: readonly Procedure[], unit: Unit, extra: Procedure): string[] {
  const needs = new Set(extra.steps.flatMap((s) => s.needs ?? []));
  const traits = traitsOf(unit);
  return [
    ...new Set(
      library
        .filter((p) => fits(traits, p.when) && p.steps.some((s) => s.opens !== undefined && needs.has(s.opens)))
        .map((p) => p.end),
    ),
  ];
}

function checkStep(place: string, s: ProcedureStep, names: Names, tell: (place: string, reason: string) => void): void {
  const [best, likely, worst] = s.minutes;
  if (!(best >= 0 && best <= likely && likely <= worst)) tell(place, "minutes: best, likely, worst, none below zero");
  if (s.wait) {
    const [b, l, w] = s.wait.minutes;
    if (!(b >= 0 && b <= l && l <= w)) tell(place, "minutes of the wait: best, likely, worst, none below zero");
  }
  const cautions = cautionsOf(s);
  for (const c of cautions) if (names.cautions[c] === undefined) tell(place, `no caution is called "${c}"`);
  for (const h of hazardsOf(s)) {
    const answers: readonly string[] | undefined = HAZARDS[h];
    if (!answers) tell(place, `no hazard is called "${h}"`);
    else if (!answers.some((c) => cautions.includes(c)))
      tell(place, `hazard "${h}" stands without its caution: ${answers.join(" or ")}`);
  }
  for (const c of cautions)
    if (names.holds.includes(c) && !s.hold) tell(place, `caution "${c}" needs a tick, and the step has no hold`);
  const recorded = new Set(s.record?.map((r) => r.id));
  if (s.hold?.opensBy !== undefined && !recorded.has(s.hold.opensBy))
    tell(place, `the hold is opened by "${s.hold.opensBy}", which is not recorded here`);
  for (const r of s.record ?? []) {
    if (r.limit !== undefined && !LIMIT_NAMES.includes(r.limit)) tell(place, `no limit is called "${r.limit}"`);
    if ((r.quantity === "choice") !== (r.options?.length ?? 0) > 1)
      tell(place, `"${r.id}": a choice has two options at least, and nothing else has any`);
  }
  if (s.undoes && (s.opens || s.removes)) tell(place, "a step that undoes another takes nothing off itself");
}
