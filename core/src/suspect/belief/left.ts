import { aboutOf, type Evidence } from "../evidence/evidence.ts";
import type { FaultSet } from "../faults/sets.ts";
import { cureOf } from "../plan/space.ts";
import { Belief } from "./belief.ts";
import { normalise, SCALE_EVERY, type SuspectModel } from "./model.ts";

/** What repairs that did not cure have left, in two parts that sum to one. */
export interface Left {
  /** they changed nothing: all that was wrong is */
  readonly same: Belief;
  /** they cured some of it, by set of the model */
  readonly fewer: Float64Array;
}

/** Triples below this are not carried on: there are hundreds. */
const NEGLIGIBLE = 1e-9;

/** By fault: how likely one of the repairs that were done would have cured it. */
export function curedBy(model: SuspectModel, tried: readonly Evidence[]): Float64Array {
  const cures = [...new Set(tried.map((e) => model.findRepair(e.checkId ?? "")))].flatMap((r) =>
    r ? [cureOf(model, r)] : [],
  );
  return Float64Array.from(model.faults, (_, i) => 1 - cures.reduce((q, cure) => q * (1 - (cure[i] as number)), 1));
}

/**
 * Parts a belief after repairs that did not cure: of several faults they may have cured some, each on its own, but at least
 * one is left. That the vehicle is not cured was counted before, as the outcome of the repair.
 */
export function leftBy(model: SuspectModel, belief: Belief, tried: readonly Evidence[]): Left {
  const p = Float64Array.from(belief.p);
  const fewer = new Float64Array(p.length);
  const triples: FaultSet[] = [];
  const cure = curedBy(model, tried);
  /** @returns what is left as it was */
  const part = (members: readonly number[], mass: number): number => {
    const all = members.reduce((q, i) => q * (cure[i] as number), 1);
    const whole = (1 << members.length) - 1;
    let same = mass;
    for (let left = 1; left < whole; left++) {
      const share = members.reduce(
        (q, i, n) => {
          const c = cure[i] as number;
          return q * (left & (1 << n) ? 1 - c : c);
        },
        mass / (1 - all),
      );
      if (!(share > 0)) continue;
      const [i = 0, j] = members.filter((_, n) => left & (1 << n));
      const at = j === undefined ? i : model.sets.pair(i, j);
      fewer[at] = (fewer[at] as number) + share;
      same -= share;
    }
    return Math.max(0, same);
  };
  const { real, faults } = model.sets;
  if (tried.length > 0)
    for (let i = 0, at = faults.length; i < real; i++)
      for (let j = i + 1; j < real; j++, at++)
        if (p[at] !== 0 && (cure[i] !== 0 || cure[j] !== 0)) p[at] = part([i, j], p[at] as number);
  for (const t of belief.triples) {
    const probability = part(t.members, t.probability);
    if (probability > NEGLIGIBLE) triples.push({ members: t.members, probability });
  }
  return { same: new Belief(model.sets, p, triples, belief.silent), fewer };
}

/** Both parts together. */
export function whole(model: SuspectModel, { same, fewer }: Left): Belief {
  return new Belief(
    model.sets,
    same.p.map((x, k) => x + (fewer[k] as number)),
    same.triples,
    same.silent,
  );
}

/** P(one piece | each set of faults), and P(the same | each single fault, silent on the drive). */
export interface Likelihoods {
  readonly ofSets: Float64Array;
  readonly ofSilent: Float64Array;
}

export function likelihoodsOf(model: SuspectModel, e: Evidence): Likelihoods {
  const { sets, faults } = model;
  const column = model.column(e);
  const ofSets = new Float64Array(sets.count).fill(1);
  column.multiply(ofSets, sets.real, faults.length);
  const ofSilent = new Float64Array(faults.length).fill(1);
  column.multiplySilent(ofSilent);
  return { ofSets, ofSilent };
}

/** A posterior with some of its evidence taken back: divided by what it was multiplied with. */
export function takenBack(
  model: SuspectModel,
  belief: Belief,
  evidence: readonly Evidence[],
  likelihoods: (e: Evidence) => Likelihoods,
): Belief {
  if (evidence.length === 0) return belief;
  const n = model.faults.length;
  const w = Float64Array.from(belief.p);
  const silent = Float64Array.from(belief.silent);
  const t = Float64Array.from(belief.triples, (s) => s.probability);
  for (let i = 0; i < n; i++) w[i] = (w[i] as number) - (silent[i] as number);
  for (const e of evidence) {
    const { ofSets, ofSilent } = likelihoods(e);
    for (let k = 0; k < w.length; k++) w[k] = (w[k] as number) / (ofSets[k] as number);
    for (let i = 0; i < n; i++) silent[i] = (silent[i] as number) / (ofSilent[i] as number);
    const column = model.column(e);
    belief.triples.forEach((s, k) => {
      t[k] = (t[k] as number) / column.of(s.members);
    });
  }
  normalise(w, silent, t);
  return beliefOf(model, w, silent, belief.triples, t);
}

function beliefOf(
  model: SuspectModel,
  shows: Float64Array,
  silent: Float64Array,
  triples: readonly FaultSet[],
  t: Float64Array,
): Belief {
  for (let i = 0; i < silent.length; i++) shows[i] = (shows[i] as number) + (silent[i] as number);
  const at = triples.map(({ members }, k) => ({ members, probability: t[k] as number }));
  return new Belief(model.sets, shows, at, silent);
}

/** How often a vehicle on which nothing was changed shows again what it showed before; else it shows it as if for the first time. */
const SHOWS_AGAIN = 0.8;

/**
 * The posterior after what was seen since the repairs. A vehicle that nothing has changed mostly repeats itself: that tells
 * its faults apart no further. What is otherwise than before tells that something was cured.
 * @param shown - outcomes before, by {@link aboutOf}
 */
export function seenAfter(
  model: SuspectModel,
  { same, fewer }: Left,
  evidence: readonly Evidence[],
  shown: ReadonlyMap<string, string>,
  likelihoods: (e: Evidence) => Likelihoods,
): Belief {
  const n = model.faults.length;
  const w = Float64Array.from(same.p);
  const silent = Float64Array.from(same.silent);
  const f = Float64Array.from(fewer);
  // on the new drive each may be silent anew
  const quiet = Float64Array.from(model.faults, (x, i) => (f[i] as number) * x.silent);
  for (let i = 0; i < n; i++) {
    w[i] = (w[i] as number) - (silent[i] as number);
    f[i] = (f[i] as number) - (quiet[i] as number);
  }
  const t = Float64Array.from(same.triples, (s) => s.probability);
  for (const [at, e] of evidence.entries()) {
    const { ofSets, ofSilent } = likelihoods(e);
    const before = shown.get(aboutOf(e));
    const again = before === e.outcome ? SHOWS_AGAIN : 0;
    const anew = before === undefined ? 1 : 1 - SHOWS_AGAIN;
    times(w, ofSets, again, anew);
    times(f, ofSets, 0, 1);
    times(silent, ofSilent, again, anew);
    times(quiet, ofSilent, 0, 1);
    const column = model.column(e);
    same.triples.forEach((s, k) => {
      t[k] = (t[k] as number) * (again + anew * column.of(s.members));
    });
    if (at % SCALE_EVERY === SCALE_EVERY - 1) normalise(w, f, silent, quiet, t);
  }
  normalise(w, f, silent, quiet, t);
  for (let i = 0; i < n; i++) silent[i] = (silent[i] as number) + (quiet[i] as number);
  for (let k = 0; k < w.length; k++) w[k] = (w[k] as number) + (f[k] as number);
  return beliefOf(model, w, silent, same.triples, t);
}

/** w · (again + anew · likelihood), in place. */
function times(w: Float64Array, likelihood: Float64Array, again: number, anew: number): void {
  for (let k = 0; k < w.length; k++) w[k] = (w[k] as number) * (again + anew * (likelihood[k] as number));
}
