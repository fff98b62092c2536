import type { Knowledge } from "../knowledge/index.ts";
import type { Unit } from "../unit/index.ts";
import {
  type Fault,
  generateFaults,
  generateRepairs,
  kindTitle,
  type Repair,
  relationHolds,
} from "./faults/instances.ts";

/** By class of fault: how many. */
export type ByClass = Readonly<Record<string, number>>;

/** One proved job: what was found, and what the library lets expect of such a unit. Each sums to one. */
export interface ProvedJob {
  readonly found: ByClass;
  readonly expected: ByClass;
}

/** All proved jobs of a shop together. */
export interface OwnJobs {
  readonly jobs: number;
  readonly found: ByClass;
  readonly expected: ByClass;
}

/** What a shop's own jobs say of one class. */
export interface OwnFactor {
  readonly classId: string;
  readonly found: number;
  readonly expected: number;
  /** how many times as likely as the library says, before anything was seen */
  readonly factor: number;
}

/**
 * Shape of the gamma distribution that a shop's factors come from before it has counted anything; its mean is one and its spread one over the
 * root of this. Counted jobs move it, Poisson given the factor: (shape + found) / (shape + expected).
 * Clayton and Kaldor, "Empirical Bayes estimates of age-standardized relative risks", Biometrics 43 (1987).
 */
export const SHAPE = 3;
/** However many jobs say so, no class is taken for so many times as likely, or as unlikely. */
export const MOST_FACTOR = 5;

const add = (into: Record<string, number>, from: ByClass) => {
  for (const [c, n] of Object.entries(from)) into[c] = (into[c] ?? 0) + n;
};
const summed = (list: readonly (readonly [string, number])[]): Record<string, number> => {
  const out: Record<string, number> = {};
  const all = list.reduce((s, [, w]) => s + w, 0);
  for (const [c, w] of list) if (w > 0) add(out, { [c]: w / all });
  return out;
};

/** Share of each class among the faults of a unit, as the library weighs them. */
export const expectedIn = (unit: Unit, knowledge: Knowledge): ByClass =>
  summed(generateFaults(unit, knowledge).map((f) => [f.classId, f.weight]));

const curesOf = (unit: Unit, repair: Repair, fault: Fault): number =>
  repair.cures.find(
    (c) =>
      c.faults.includes(fault.classId) &&
      relationHolds(unit, c.relation, fault.component, { component: repair.component }),
  )?.p ?? 0;

/**
 * What a repair that cured has shown to be wrong: of the faults that it cures, each by how likely it was held when it was decided and how
 * surely the repair cures it. What was not named then shares what was left by the library's weights.
 * @param repairId - as decided; of several in one visit joined by "+"
 * @param odds - that stood at the decision, by title of the fault
 * @returns by class, summing to one; empty when the repair says nothing of a fault: handed back, or not of this unit
 */
export function foundBy(
  unit: Unit,
  knowledge: Knowledge,
  repairId: string,
  odds: readonly { readonly title: string; readonly probability: number }[],
): ByClass {
  const known = generateRepairs(unit, knowledge);
  const repairs = repairId.split("+").flatMap((id) => known.find((r) => r.id === id) ?? []);
  const faults = generateFaults(unit, knowledge);
  const stated = new Map(odds.map((o) => [o.title, o.probability]));
  const unnamed = faults.filter((f) => !stated.has(f.title));
  const left = Math.max(0, 1 - odds.reduce((s, o) => s + o.probability, 0));
  const weights = unnamed.reduce((s, f) => s + f.weight, 0);
  const held = (f: Fault) => stated.get(f.title) ?? (left * f.weight) / weights;
  // several repairs in one visit were for several faults: each counts for its part
  const each = repairs.map((r) => summed(faults.map((f) => [f.classId, held(f) * curesOf(unit, r, f)])));
  const telling = each.filter((e) => Object.keys(e).length > 0);
  return summed(telling.flatMap((e) => Object.entries(e)));
}

/** Proved jobs counted together. */
export function ownJobs(list: readonly ProvedJob[]): OwnJobs {
  const found: Record<string, number> = {};
  const expected: Record<string, number> = {};
  for (const job of list) {
    add(found, job.found);
    add(expected, job.expected);
  }
  return { jobs: list.length, found, expected };
}

/** How far the odds of each class move in a shop: most first, either way. Weighted by what was expected they are one on average. */
export function ownFactors({ found, expected }: OwnJobs, shape = SHAPE): OwnFactor[] {
  const raw = Object.entries(expected).map(([classId, e]) => ({
    classId,
    found: found[classId] ?? 0,
    expected: e,
    factor: (shape + (found[classId] ?? 0)) / (shape + e),
  }));
  const all = raw.reduce((s, r) => s + r.expected, 0);
  const mean = all === 0 ? 1 : raw.reduce((s, r) => s + r.expected * r.factor, 0) / all;
  return raw
    .map((r) => ({ ...r, factor: Math.min(MOST_FACTOR, Math.max(1 / MOST_FACTOR, r.factor / mean)) }))
    .sort((a, b) => Math.abs(Math.log(b.factor)) - Math.abs(Math.log(a.factor)) || a.classId.localeCompare(b.classId));
}

export interface NamedFactor extends OwnFactor {
  readonly title: string;
}

/** With what the class is called of any component. */
export const namedFactors = (knowledge: Knowledge, factors: readonly OwnFactor[]): NamedFactor[] =>
  factors.flatMap((f) => {
    const known = knowledge.faults.find((k) => k.id === f.classId);
    return known ? [{ ...f, title: kindTitle(known.title, known.per) }] : [];
  });
