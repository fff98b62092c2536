import { Belief } from "./belief.ts";
import type { Evidence } from "./evidence.ts";
import { type Fault, generateRepairs } from "./instances.ts";
import type { SuspectModel } from "./model.ts";
import { cureOf } from "./space.ts";

const UNLIKELY = 0.1;
const TRIPLE_FAULTS = 16;
const PER_EVIDENCE = 3;

/** Abnormal evidence that a set of faults leaves unexplained. */
export const unexplainedBy = (
  model: SuspectModel,
  evidence: readonly Evidence[],
  members: readonly number[],
): Evidence[] => evidence.filter((e) => e.abnormal && model.column(e).of(members) < UNLIKELY);

/**
 * What is still wrong after the repairs that were done: of several faults the repair may have cured some. A vehicle that
 * was not cured has at least one left.
 */
function afterRepairs(model: SuspectModel, belief: Belief, evidence: readonly Evidence[]): Belief {
  const tried = evidence.filter((e) => e.table === "tried");
  if (tried.length === 0) return belief;
  const parts = generateRepairs(model.unit, model.knowledge);
  const p = Float64Array.from(belief.p);
  const { real, faults } = model.sets;
  for (const e of tried) {
    const repair = parts.find((r) => r.id === e.checkId);
    if (!repair) continue;
    const cure = cureOf(model, repair);
    let at = faults.length;
    for (let i = 0; i < real; i++)
      for (let j = i + 1; j < real; j++, at++) {
        const [a, b] = [cure[i] as number, cure[j] as number];
        const mass = p[at] as number;
        if (mass === 0 || (a === 0 && b === 0)) continue;
        const fails = 1 - a * b;
        p[at] = (mass * (1 - a) * (1 - b)) / fails;
        p[i] = (p[i] as number) + (mass * (1 - a) * b) / fails;
        p[j] = (p[j] as number) + (mass * a * (1 - b)) / fails;
      }
  }
  return new Belief(model.sets, p, belief.triples, belief.silent);
}

/** The posterior, and after repairs what is left; see {@link posteriorWithTriples}. */
export function believe(model: SuspectModel, evidence: readonly Evidence[]): Belief {
  return afterRepairs(model, posteriorWithTriples(model, evidence), evidence);
}

/**
 * The posterior with triples, when the best single fault or pair leaves something abnormal unexplained: those of the
 * likeliest faults and of the ones that would explain what is left.
 */
function posteriorWithTriples(model: SuspectModel, evidence: readonly Evidence[]): Belief {
  const belief = model.posterior(evidence);
  const left = unexplainedBy(model, evidence, belief.best().members);
  if (left.length === 0) return belief;
  const marginals = belief.marginals();
  const byValue = (v: Float64Array, most: number) =>
    Array.from({ length: model.sets.real }, (_, i) => i)
      .sort((a, b) => (v[b] as number) - (v[a] as number))
      .slice(0, most);
  const chosen = [
    ...new Set([
      ...byValue(marginals, TRIPLE_FAULTS),
      ...left.flatMap((e) => byValue(model.column(e).p, PER_EVIDENCE)),
    ]),
  ].sort((a, b) => a - b);
  // against the best set, so that nothing runs dry
  const best = belief.best();
  const columns = evidence.map((e) => model.column(e));
  const log = (members: readonly number[]) => columns.reduce((s, c) => s + Math.log(c.of(members)), 0);
  const weight = (i: number) => (model.faults[i] as Fault).weight;
  const bestLog = log(best.members) + Math.log(priorOf(model, best.members));
  const found: { members: number[]; ratio: number }[] = [];
  for (let x = 0; x < chosen.length; x++)
    for (let y = x + 1; y < chosen.length; y++) {
      const [i, j] = [chosen[x] as number, chosen[y] as number];
      if (model.excludes(i, j)) continue;
      for (let z = y + 1; z < chosen.length; z++) {
        const k = chosen[z] as number;
        if (model.excludes(i, k) || model.excludes(j, k)) continue;
        const members = [i, j, k];
        const prior = model.tripleScale * weight(i) * weight(j) * weight(k);
        found.push({ members, ratio: Math.exp(log(members) + Math.log(prior) - bestLog) });
      }
    }
  // of a fault that may be silent only the part that shows stands against the triples
  const [i = 0, j] = best.members;
  const scale = best.probability - (j === undefined ? (belief.silent[i] as number) : 0);
  const sum = found.reduce((s, f) => s + f.ratio * scale, 0);
  return new Belief(
    model.sets,
    belief.p.map((x) => x / (1 + sum)),
    found.map((f) => ({ members: f.members, probability: (f.ratio * scale) / (1 + sum) })),
    belief.silent.map((x) => x / (1 + sum)),
  );
}

function priorOf({ priors, sets, faults }: SuspectModel, [i = 0, j]: readonly number[]): number {
  if (j !== undefined) return priors[sets.pair(i, j)] as number;
  return (priors[i] as number) * (1 - (faults[i]?.silent ?? 0));
}
