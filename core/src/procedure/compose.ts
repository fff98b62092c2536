import type { Unit } from "../unit/index.ts";
import type { Procedure, ProcedureStep } from "./procedure.ts";
import { stepKey } from "./procedure.ts";
import { fits, traitsOf } from "./traits.ts";

/** A step of a plan, under its key among all procedures. */
export interface PlanStep extends ProcedureStep {
  readonly key: string;
  readonly procedure: string;
  /** key of the step that it undoes */
  readonly undoneKey?: string | undefined;
  /** keys of all steps that have to be done first, by whatever rule */
  readonly before: readonly string[];
}

export interface Plan {
  readonly unitId: string;
  readonly repairs: readonly string[];
  /** ids of the procedures that are part of it, those asked for first */
  readonly procedures: readonly string[];
  /** in an order in which they can be done */
  readonly steps: readonly PlanStep[];
}

export interface Problem {
  /** "procedure/step", or a procedure */
  readonly place: string;
  readonly reason: string;
}

/** What stands in the way of a plan. */
export class NoPlan extends Error {
  readonly problems: readonly Problem[];
  constructor(problems: readonly Problem[]) {
    super(problems.map((p) => `${p.place}: ${p.reason}`).join("; "));
    this.problems = problems;
  }
}

const PHASES = { before: 0, between: 1, after: 2 } as const;

/** A repair of a job, "rebuild:HC", by its kind. */
const kindOf = (repair: string): string => repair.split(":")[0] as string;

const applying = (library: readonly Procedure[], unit: Unit): Procedure[] => {
  const traits = traitsOf(unit);
  return library.filter((p) => fits(traits, p.when)).sort((a, b) => a.id.localeCompare(b.id));
};

/** Ways to an end that a unit has, by id. */
export const waysTo = (library: readonly Procedure[], unit: Unit, end: string): Procedure[] =>
  applying(library, unit).filter((p) => p.end === end);

/** Ends that a repair leads to; empty when no procedure does it. */
export const endsOf = (library: readonly Procedure[], unit: Unit, repair: string): string[] => [
  ...new Set(
    applying(library, unit)
      .filter((p) => p.repairs?.includes(kindOf(repair)))
      .map((p) => p.end),
  ),
];

/** The procedures of a plan: the ways to its ends, and what those include, each once. */
function chosen(
  library: readonly Procedure[],
  unit: Unit,
  ends: readonly string[],
  strategies: readonly string[],
): Procedure[] {
  const problems: Problem[] = [];
  const found = new Map<string, Procedure>();
  const take = (asked: string, from: string) => {
    const end = asked.replace(/\?$/, "");
    if (found.has(end)) return;
    const ways = waysTo(library, unit, end);
    const way = ways.find((w) => strategies.includes(w.id)) ?? ways[0];
    if (!way && asked.endsWith("?")) return;
    if (!way) {
      problems.push({ place: from, reason: `${unit.name} has no way to "${end}"` });
      return;
    }
    found.set(end, way);
    for (const e of way.includes ?? []) take(e, way.id);
  };
  for (const e of ends) take(e, e);
  for (const s of strategies)
    if (![...found.values()].some((p) => p.id === s)) {
      const ways = [...found.values()].map((p) => waysTo(library, unit, p.end)).filter((w) => w.length > 1);
      problems.push({
        place: s,
        reason: `it isn’t a way of this plan; there ${ways.length > 0 ? `are ${ways.flatMap((w) => w.map((x) => x.id)).join(", ")}` : "is none to choose"}`,
      });
    }
  if (problems.length > 0) throw new NoPlan(problems);
  return [...found.values()];
}

/** What is open while a step is done: what it needs, and what the steps that open those need, and so on. */
function needsOf(step: ProcedureStep, openers: ReadonlyMap<string, ProcedureStep>): Set<string> {
  const all = new Set<string>();
  const add = (state: string) => {
    if (all.has(state)) return;
    all.add(state);
    for (const n of openers.get(state)?.needs ?? []) add(n);
  };
  for (const n of step.needs ?? []) add(n);
  return all;
}

/**
 * The plan of one repair or several on a unit. What they share is done once. A step that needs something open comes after the
 * step that opens it and before the one that undoes that; what is undone last was taken off first.
 * @param strategies - ids of procedures that are preferred as the way to their ends
 * @param extras - ids of procedures that are done besides, while it is open
 * @throws NoPlan naming what has no way, what is in a circle, what would be left over
 */
export function compose(
  library: readonly Procedure[],
  unit: Unit,
  repairs: readonly string[],
  strategies: readonly string[] = [],
  extras: readonly string[] = [],
): Plan {
  const ends = repairs.map((r) => endsOf(library, unit, r));
  const without = repairs.filter((_, i) => ends[i]?.length === 0);
  if (without.length > 0)
    throw new NoPlan(without.map((r) => ({ place: r, reason: `no procedure does this repair on ${unit.name}` })));
  const more = library.filter((p) => p.extra !== undefined && extras.includes(p.id)).map((p) => p.end);
  return { ...planTo(library, unit, [...new Set([...ends.flat(), ...more])], strategies), repairs };
}

/** What a job asks for: the plan of those of its repairs that a procedure does, and those that none does. */
export function planOf(
  library: readonly Procedure[],
  unit: Unit,
  repairs: readonly string[],
  ways: readonly string[],
  extras: readonly string[] = [],
): { readonly plan: Plan | undefined; readonly without: readonly string[] } {
  const known = repairs.filter((r) => endsOf(library, unit, r).length > 0);
  // a way that was chosen for a repair that is decided no more is no matter
  const plain = known.length > 0 ? compose(library, unit, known) : undefined;
  const ends = new Set(library.filter((p) => plain?.procedures.includes(p.id)).map((p) => p.end));
  const held = ways.filter((w) => library.some((p) => p.id === w && ends.has(p.end)));
  // an extra whose way in is not opened any more is no matter either
  const open = new Set(plain?.steps.flatMap((s) => s.opens ?? []));
  const besides = library.filter(
    (p) => extras.includes(p.id) && p.extra && p.steps.every((s) => (s.needs ?? []).every((n) => open.has(n))),
  );
  return {
    plan:
      plain && held.length + besides.length > 0
        ? compose(
            library,
            unit,
            known,
            held,
            besides.map((p) => p.id),
          )
        : plain,
    without: repairs.filter((r) => !known.includes(r)),
  };
}

/** Ends of a plan to which the unit has several ways. */
export function choicesOf(
  library: readonly Procedure[],
  unit: Unit,
  plan: Plan,
): { readonly end: string; readonly chosen: Procedure; readonly ways: readonly Procedure[] }[] {
  return library
    .filter((p) => plan.procedures.includes(p.id))
    .map((chosen) => ({ end: chosen.end, chosen, ways: waysTo(library, unit, chosen.end) }))
    .filter((c) => c.ways.length > 1);
}

/** The same, to ends that are named. @throws NoPlan */
export function planTo(
  library: readonly Procedure[],
  unit: Unit,
  ends: readonly string[],
  strategies: readonly string[] = [],
): Plan {
  const procedures = chosen(library, unit, ends, strategies);
  const traits = traitsOf(unit);
  const steps = procedures.flatMap((p) =>
    p.steps.filter((s) => fits(traits, s.when)).map((s) => ({ ...s, key: stepKey(p.id, s.id), procedure: p.id })),
  );
  const byKey = new Map(steps.map((s) => [s.key, s]));
  // a step of whichever way was chosen is called by the end as well
  const byEnd = new Map(
    procedures.flatMap((p) => p.steps.map((s) => [stepKey(p.end, s.id), stepKey(p.id, s.id)] as const)),
  );
  const keyOf = (procedure: string, ref: string) => {
    const key = stepKey(procedure, ref);
    return byKey.has(key) ? key : (byEnd.get(key) ?? key);
  };
  const openers = new Map(steps.flatMap((s) => (s.opens ? [[s.opens, s] as const] : [])));
  const undoneBy = new Map(steps.flatMap((s) => (s.undoes ? [[keyOf(s.procedure, s.undoes), s] as const] : [])));
  const before = new Map(steps.map((s) => [s.key, new Set<string>()]));
  const undoneKey = (s: (typeof steps)[number]) =>
    s.undoes === undefined ? {} : { undoneKey: keyOf(s.procedure, s.undoes) };
  const problems: Problem[] = [];

  for (const s of steps) {
    const own = before.get(s.key) as Set<string>;
    for (const a of s.after ?? []) {
      const key = keyOf(s.procedure, a);
      if (byKey.has(key)) own.add(key);
    }
    if (s.undoes) {
      const undone = keyOf(s.procedure, s.undoes);
      if (byKey.has(undone)) own.add(undone);
    }
  }
  for (const s of steps) {
    const undone = s.undoes ? byKey.get(keyOf(s.procedure, s.undoes)) : undefined;
    // what a removal needed open, its refit needs open as well
    const needs = needsOf({ ...s, needs: [...(s.needs ?? []), ...(undone?.needs ?? [])] }, openers);
    for (const state of needs) {
      const opener = openers.get(state);
      if (!opener) {
        problems.push({ place: s.key, reason: `needs "${state}", which nothing in this plan opens` });
        continue;
      }
      before.get(s.key)?.add(opener.key);
      const closer = undoneBy.get(opener.key);
      if (closer && closer.key !== s.key) before.get(closer.key)?.add(s.key);
    }
  }
  const phases = new Map(procedures.map((p) => [p.id, PHASES[p.phase ?? "between"]]));
  for (const s of steps)
    for (const b of steps)
      if ((phases.get(b.procedure) as number) < (phases.get(s.procedure) as number)) before.get(s.key)?.add(b.key);
  for (const s of steps.filter((x) => x.afterRefits)) {
    const later = follow(s.key, before);
    for (const r of steps) if (r.undoes && !later.has(r.key)) before.get(s.key)?.add(r.key);
  }
  for (const s of steps)
    if ((s.removes || s.opens) && !undoneBy.has(s.key))
      problems.push({ place: s.key, reason: "nothing undoes it: it would be left over" });
  if (problems.length > 0) throw new NoPlan(problems);

  const ordered = inOrder(
    steps.map((s) => s.key),
    before,
  );
  return {
    unitId: unit.id,
    repairs: [],
    procedures: procedures.map((p) => p.id),
    steps: ordered.map((key) => ({
      ...(byKey.get(key) as (typeof steps)[number]),
      ...undoneKey(byKey.get(key) as (typeof steps)[number]),
      before: [...(before.get(key) as Set<string>)],
    })),
  };
}

/** A step and all that come after it, by whatever way. */
function follow(key: string, before: ReadonlyMap<string, ReadonlySet<string>>): ReadonlySet<string> {
  const all = new Set([key]);
  for (let size = 0; size < all.size; ) {
    size = all.size;
    for (const [k, b] of before) if ([...b].some((x) => all.has(x))) all.add(k);
  }
  return all;
}

/** In an order in which they can be done, as near as may be to the one in which they stand. @throws NoPlan naming a circle */
function inOrder(keys: readonly string[], before: ReadonlyMap<string, ReadonlySet<string>>): string[] {
  const done: string[] = [];
  const left = new Set(keys);
  while (left.size > 0) {
    const next = [...left].find((k) => [...(before.get(k) ?? [])].every((b) => !left.has(b)));
    if (next === undefined) throw new NoPlan([{ place: circle(left, before).join(" → "), reason: "goes in a circle" }]);
    left.delete(next);
    done.push(next);
  }
  return done;
}

/** One circle among steps that each wait for another of them. */
function circle(left: ReadonlySet<string>, before: ReadonlyMap<string, ReadonlySet<string>>): string[] {
  const path: string[] = [];
  let at = left.values().next().value as string;
  while (!path.includes(at)) {
    path.push(at);
    at = [...(before.get(at) ?? [])].find((b) => left.has(b)) as string;
  }
  return [...path.slice(path.indexOf(at)), at].reverse();
}

/** Steps that may be done now: a set, not a list. @param done - keys of steps that are done */
export const openSteps = (plan: Pick<Plan, "steps">, done: ReadonlySet<string>): PlanStep[] =>
  plan.steps.filter((s) => !done.has(s.key) && s.before.every((b) => done.has(b)));

/** What a step still waits for, by title; empty when it may be done. */
export const waitsFor = (plan: Plan, key: string, done: ReadonlySet<string>): string[] => {
  const step = plan.steps.find((s) => s.key === key);
  return (step?.before ?? []).filter((b) => !done.has(b)).map((b) => plan.steps.find((s) => s.key === b)?.title ?? b);
};
