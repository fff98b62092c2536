import { aboutOf, type Evidence, repairsDone } from "../evidence/evidence.ts";
import type { Fault } from "../faults/instances.ts";
import { Belief } from "./belief.ts";
import { curedBy, type Likelihoods, leftBy, likelihoodsOf, seenAfter, takenBack, whole } from "./left.ts";
import type { SuspectModel } from "./model.ts";

const UNLIKELY = 0.1;
const TRIPLE_FAULTS = 16;
const PER_EVIDENCE = 3;

const CURED = 0.5;

/**
 * Abnormal evidence that a set of faults leaves unexplained. What was seen before a repair may have come from what that
 * repair has cured.
 */
export function unexplainedBy(
  model: SuspectModel,
  evidence: readonly Evidence[],
  members: readonly number[],
): Evidence[] {
  const tried = evidence.filter((e) => e.table === "tried");
  const cure = curedBy(model, tried);
  const cured = Array.from(cure.keys()).filter((i) => (cure[i] as number) >= CURED);
  const last = Math.max(-1, ...tried.map(repairsDone));
  return evidence.filter((e) => {
    if (!e.abnormal) return false;
    const column = model.column(e);
    if (column.of(members) >= UNLIKELY) return false;
    return repairsDone(e) > last || cured.every((i) => (column.p[i] as number) < UNLIKELY);
  });
}

/**
 * The posterior of what is wrong now. Repairs that did not cure part what was seen before them from what was seen after:
 * the first speaks of all that was wrong then, the second of what they have left. See {@link posteriorWithTriples}.
 */
export function believe(model: SuspectModel, evidence: readonly Evidence[]): Belief {
  const stages = stagesOf(evidence);
  return nowLeft(model, posteriorWithTriples(model, stages[0] ?? []), stages, (e) => likelihoodsOf(model, e));
}

/** {@link believe} once without each of these groups, with the triples that the whole asks for. */
export function believeWithout(
  model: SuspectModel,
  evidence: readonly Evidence[],
  groups: readonly (readonly Evidence[])[],
): Belief[] {
  const known = new Map(evidence.map((e) => [e, likelihoodsOf(model, e)]));
  const likelihoods = (e: Evidence) => known.get(e) as Likelihoods;
  const stages = stagesOf(evidence);
  const [first = []] = stages;
  const all = posteriorWithTriples(model, first);
  return groups.map((group) => {
    const out = new Set(group);
    const start = takenBack(
      model,
      all,
      first.filter((e) => out.has(e)),
      likelihoods,
    );
    return nowLeft(
      model,
      start,
      stages.map((list) => list.filter((e) => !out.has(e))),
      likelihoods,
    );
  });
}

/** By how many repairs had been done: a list from before any, and one for each time that something was seen. */
function stagesOf(evidence: readonly Evidence[]): Evidence[][] {
  const stages = [...new Set([0, ...evidence.map(repairsDone)])].sort((a, b) => a - b);
  return stages.map((stage) => evidence.filter((e) => repairsDone(e) === stage));
}

/** What is left after all stages. @param first - belief after the first of them, its repairs not yet reckoned with */
function nowLeft(
  model: SuspectModel,
  first: Belief,
  stages: readonly (readonly Evidence[])[],
  likelihoods: (e: Evidence) => Likelihoods,
): Belief {
  const shown = new Map<string, string>();
  let belief = first;
  stages.forEach((seen, at) => {
    const tried = seen.filter((e) => e.table === "tried");
    const next = stages[at + 1];
    for (const e of seen) shown.set(aboutOf(e), e.outcome);
    if (tried.length === 0 && !next) return;
    const left = leftBy(model, belief, tried);
    belief = next ? seenAfter(model, left, next, shown, likelihoods) : whole(model, left);
  });
  return belief;
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
