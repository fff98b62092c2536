import { seededRandom } from "@gearsense/core/chance";
import type { Evidence, SuspectModel } from "@gearsense/core/suspect";

/**
 * A world other than the one that the knowledge was counted in: vehicles of another family, faults that come more or less
 * often than the catalogue says, people and instruments that err twice as often, observations that are simply wrong, and
 * faults that the catalogue does not know.
 */
export interface World {
  /** 0: our own, in which none of this holds */
  readonly number: number;
  /** factor on the prior weight of a class of fault */
  priorFactor(classId: string): number;
  /** factor on every rate of error */
  readonly errors: number;
  /** share of the observations that say something at random */
  readonly contaminated: number;
  /** share of the vehicles with a fault whose fault is not in the catalogue */
  readonly outside: number;
}

const PRIOR_FACTOR = 3;
const ERRORS = 2;
const CONTAMINATED = 0.05;
const OUTSIDE = 0.05;

const MOST_ERRORS = 2 / 3;

const OWN: World = { number: 0, priorFactor: () => 1, errors: 1, contaminated: 0, outside: 0 };

/** The same number gives the same world. */
export function worldOf(number: number): World {
  if (number === 0) return OWN;
  return {
    number,
    priorFactor: (classId) => {
      let h = Math.imul(number, 0x9e3779b1) >>> 0;
      for (let i = 0; i < classId.length; i++) h = Math.imul(h ^ classId.charCodeAt(i), 0x01000193) >>> 0;
      return seededRandom(h)() < 0.5 ? PRIOR_FACTOR : 1 / PRIOR_FACTOR;
    },
    errors: ERRORS,
    contaminated: CONTAMINATED,
    outside: OUTSIDE,
  };
}

/**
 * Outcomes that are not the likeliest come so many times as often; the likeliest keeps a third where it had it.
 * @param p - summing to one
 */
export function withErrors(p: readonly number[], errors: number): number[] {
  const most = p.indexOf(Math.max(...p));
  const others = p.reduce((s, x, i) => (i === most ? s : s + x), 0);
  if (others === 0) return [...p];
  const scale = Math.max(1, Math.min(errors, MOST_ERRORS / others));
  const scaled = p.map((x, i) => (i === most ? 0 : x * scale));
  scaled[most] = 1 - scaled.reduce((a, b) => a + b, 0);
  return scaled;
}

/** Outcomes that a piece of evidence can have. */
function outcomesOf(model: SuspectModel, e: Evidence): readonly string[] {
  if (e.table === "check") return model.checks.find((c) => c.id === e.checkId)?.outcomes.map((o) => o.id) ?? [];
  if (e.table === "observation")
    return model.knowledge.rungs.find((r) => r.id === e.checkId)?.outcomes.map((o) => o.id) ?? [];
  return model.knowledge.evidence.find((t) => t.evidence === e.table)?.outcomes ?? [];
}

/** Some of the observations say something at random: a slip of the pen, another vehicle's paper, a wrong look. */
export function contaminate(
  model: SuspectModel,
  evidence: readonly Evidence[],
  share: number,
  random: () => number,
): Evidence[] {
  if (share === 0) return [...evidence];
  return evidence.map((e) => {
    const outcomes = outcomesOf(model, e);
    if (random() >= share || outcomes.length < 2) return e;
    return { ...e, outcome: outcomes[Math.floor(random() * outcomes.length)] as string };
  });
}
