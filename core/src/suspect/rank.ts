import type { FaultGroup } from "../knowledge/index.ts";
import type { Belief } from "./belief.ts";
import { unexplainedBy } from "./believe.ts";
import type { Evidence } from "./evidence.ts";
import { MODEL_VERSION, NOTHING_ID, normalise, type SuspectModel, UNKNOWN_ID } from "./model.ts";
import type { FaultSet } from "./sets.ts";

export interface Weight {
  readonly evidenceId: string;
  readonly label: string;
  /** P(evidence | this fault) over P(evidence | the others, as they stood before any evidence) */
  readonly ratio: number;
  readonly why: string | undefined;
}

export interface Suspect {
  readonly faultId: string;
  readonly classId: string;
  readonly component: string;
  readonly group: FaultGroup;
  readonly title: string;
  /** that it is there, alone or with another */
  readonly probability: number;
  readonly prior: number;
  readonly speaksFor: readonly Weight[];
  readonly speaksAgainst: readonly Weight[];
  /** abnormal evidence that this fault alone leaves unexplained */
  readonly unexplained: readonly string[];
}

/** Faults that together explain the evidence. */
export interface Explanation {
  readonly faultIds: readonly string[];
  readonly titles: readonly string[];
  readonly probability: number;
  readonly unexplained: readonly string[];
}

/** What the verdict rests on: what would lead without one piece of evidence, and if it had shown the contrary. */
export interface Leverage {
  readonly evidenceIds: readonly string[];
  readonly entryId: string;
  readonly label: string;
  /** probability of the leading suspect without it */
  readonly leaderWithout: number;
  readonly without: { readonly titles: readonly string[]; readonly probability: number };
  /** undefined for a whole entry: many things cannot all be the contrary at once */
  readonly contrary: { readonly titles: readonly string[]; readonly probability: number } | undefined;
  /** another explanation leads without it */
  readonly flips: boolean;
}

export interface Ranking {
  readonly modelVersion: number;
  /** by probability of being there; they may sum to more than one */
  readonly suspects: readonly Suspect[];
  /** the likeliest explanations, single or several faults; these sum to at most one */
  readonly explanations: readonly Explanation[];
  readonly leverage: readonly Leverage[];
  /** true when the best explanation leaves something abnormal unexplained or the leak term leads */
  readonly poorlyExplained: boolean;
}

/** Ratios within this are not worth a line. */
const WORTH_SAYING = 1.15;
const UNEXPLAINED_BELOW = 0.1;
const EXPLANATIONS = 6;
const LEVERS = 8;
/** A change of the leader's probability under this is no leverage. */
const LEAST_LEVERAGE = 0.02;
const UNKNOWN_LEADS = 0.35;

/** Ranks the faults of a unit by the evidence and says what speaks for and against each. */
export function rankSuspects(model: SuspectModel, evidence: readonly Evidence[], belief: Belief): Ranking {
  const marginals = belief.marginals();
  const columns = evidence.map((e) => ({ e, column: model.column(e) }));
  const n = model.faults.length;
  const prior = normalise(model.priors.slice(0, n));
  const mean = columns.map(({ column }) => column.p.reduce((s, x, i) => s + x * (prior[i] as number), 0));
  const suspects = model.faults.map((f, i): Suspect => {
    const speaksFor: Weight[] = [];
    const speaksAgainst: Weight[] = [];
    const unexplained: string[] = [];
    columns.forEach(({ e, column }, k) => {
      const own = column.p[i] as number;
      const others = (mean[k] as number) - (prior[i] as number) * own;
      const ratio = (own * (1 - (prior[i] as number))) / others;
      if (e.abnormal && own < UNEXPLAINED_BELOW) unexplained.push(e.label);
      if (ratio < WORTH_SAYING && ratio > 1 / WORTH_SAYING) return;
      const weight = { evidenceId: e.id, label: e.label, ratio, why: model.likelihood(e, f).why };
      (ratio > 1 ? speaksFor : speaksAgainst).push(weight);
    });
    speaksFor.sort((a, b) => b.ratio - a.ratio);
    speaksAgainst.sort((a, b) => a.ratio - b.ratio);
    return {
      faultId: f.id,
      classId: f.classId,
      component: f.component,
      group: f.group,
      title: f.title,
      probability: marginals[i] as number,
      prior: prior[i] as number,
      speaksFor,
      speaksAgainst,
      unexplained,
    };
  });
  suspects.sort((a, b) => b.probability - a.probability || a.faultId.localeCompare(b.faultId));
  const explanations = belief.top(EXPLANATIONS).map(
    ({ members, probability }): Explanation => ({
      faultIds: members.map((i) => model.faults[i]?.id ?? ""),
      titles: titlesOf(model, members),
      probability,
      unexplained: unexplainedBy(model, evidence, members).map((e) => e.label),
    }),
  );
  const [best] = explanations;
  const unknown = suspects.find((s) => s.faultId === UNKNOWN_ID)?.probability ?? 0;
  return {
    modelVersion: MODEL_VERSION,
    suspects,
    explanations,
    leverage: leverageOf(model, evidence, belief),
    poorlyExplained:
      best !== undefined &&
      (best.faultIds.includes(UNKNOWN_ID) || unknown > UNKNOWN_LEADS || best.unexplained.length > 0),
  };
}

const titlesOf = (model: SuspectModel, members: readonly number[]) => members.map((i) => model.faults[i]?.title ?? "");

/** Leaves every piece of evidence out, then every entry with several, exactly: weights divided by what they were multiplied with. */
function leverageOf(model: SuspectModel, evidence: readonly Evidence[], belief: Belief): Leverage[] {
  const leader = leadOf(model, belief.p);
  const groups: Evidence[][] = evidence.map((e) => [e]);
  const byEntry = new Map<string, Evidence[]>();
  for (const e of evidence) byEntry.set(e.entryId, [...(byEntry.get(e.entryId) ?? []), e]);
  for (const list of byEntry.values()) if (list.length > 1) groups.push(list);
  const ones = new Float64Array(belief.p.length);
  const quiet = new Float64Array(belief.silent.length);
  const out: Leverage[] = [];
  for (const group of groups) {
    const [first] = group as [Evidence];
    ones.fill(1);
    quiet.fill(1);
    for (const e of group) {
      const column = model.column(e);
      column.multiply(ones, model.sets.real, model.faults.length);
      column.multiplySilent(quiet);
    }
    const silentRest = belief.silent.map((p, k) => p / (quiet[k] as number));
    const rest = belief.p.map((p, k) => (p - (belief.silent[k] ?? 0)) / (ones[k] as number) + (silentRest[k] ?? 0));
    const contraryRest = rest.map(
      (p, k) =>
        (p - (silentRest[k] ?? 0)) * Math.max(1e-9, 1 - (ones[k] as number)) +
        (silentRest[k] ?? 0) * Math.max(1e-9, 1 - (quiet[k] ?? 0)),
    );
    const without = leadOf(model, normalise(rest));
    const leaderWithout = rest[leader.set] as number;
    const flips = without.set !== leader.set;
    if (!flips && Math.abs(leaderWithout - leader.probability) < LEAST_LEVERAGE) continue;
    let contrary: Leverage["contrary"];
    if (group.length === 1) {
      const turned = leadOf(model, normalise(contraryRest));
      contrary = { titles: titlesOf(model, turned.members), probability: turned.probability };
    }
    out.push({
      evidenceIds: group.map((e) => e.id),
      entryId: first.entryId,
      label: group.length === 1 ? first.label : `${first.label} and ${group.length - 1} more of the same entry`,
      leaderWithout,
      without: { titles: titlesOf(model, without.members), probability: without.probability },
      contrary,
      flips,
    });
  }
  return out.sort((a, b) => Number(b.flips) - Number(a.flips) || a.leaderWithout - b.leaderWithout).slice(0, LEVERS);
}

function leadOf(model: SuspectModel, p: Float64Array): FaultSet & { readonly set: number } {
  let set = 0;
  for (let k = 1; k < p.length; k++) if ((p[k] as number) > (p[set] as number)) set = k;
  return { set, members: model.sets.membersOf(set), probability: p[set] as number };
}

/** Is this fault none of the vehicle's? */
export const isPseudo = (faultId: string): boolean => faultId === UNKNOWN_ID || faultId === NOTHING_ID;
