import { Belief } from "./belief.ts";
import { aboutOf, type Evidence, stageOf } from "./evidence.ts";
import type { Fault } from "./instances.ts";
import { curedBy, type Left, leftBy, seenAfter, whole } from "./left.ts";
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
  const last = Math.max(-1, ...tried.map(stageOf));
  return evidence.filter((e) => {
    if (!e.abnormal) return false;
    const column = model.column(e);
    if (column.of(members) >= UNLIKELY) return false;
    return stageOf(e) > last || cured.every((i) => (column.p[i] as number) < UNLIKELY);
  });
}

/**
 * The posterior of what is wrong now. Repairs that did not cure part what was seen before them from what was seen after:
 * the first speaks of all that was wrong then, the second of what they have left. See {@link posteriorWithTriples}.
 */
export function believe(model: SuspectModel, evidence: readonly Evidence[]): Belief {
  const stages = [...new Set([0, ...evidence.map(stageOf)])].sort((a, b) => a - b);
  const shown = new Map<string, string>();
  let left: Left | undefined;
  let belief: Belief | undefined;
  for (const stage of stages) {
    const seen = evidence.filter((e) => stageOf(e) === stage);
    belief = left ? seenAfter(model, left, seen, shown) : posteriorWithTriples(model, seen);
    for (const e of seen) shown.set(aboutOf(e), e.outcome);
    left = leftBy(
      model,
      belief,
      seen.filter((e) => e.table === "tried"),
    );
    belief = whole(model, left);
  }
  return belief as Belief;
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
