import type { FaultGroup } from "../knowledge/index.ts";
import type { Belief } from "./belief/belief.ts";
import { believeWithout, unexplainedBy } from "./belief/believe.ts";
import { MODEL_VERSION, normalise, type SuspectModel, UNKNOWN_ID } from "./belief/model.ts";
import type { Evidence } from "./evidence/evidence.ts";

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
  /** of the likeliest sixteen; the rest has none, nor what speaks against it */
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
/** Suspects whose weights are told; the rest has its odds alone. */
const TOLD = 16;
const LEVERS = 8;
/** A change of the leader's probability under this isn't worth a line. */
const LEAST_LEVERAGE = 0.02;
const UNKNOWN_LEADS = 0.35;

/** Ranks the faults of a unit by the evidence and says what speaks for and against each. */
export function rankSuspects(model: SuspectModel, evidence: readonly Evidence[], belief: Belief): Ranking {
  const marginals = belief.marginals();
  const columns = evidence.map((e) => ({ e, column: model.column(e) }));
  const n = model.faults.length;
  const prior = normalise(model.priors.slice(0, n));
  const mean = columns.map(({ column }) => column.p.reduce((s, x, i) => s + x * (prior[i] as number), 0));
  const told = new Set(
    Array.from(marginals.keys())
      .sort((a, b) => (marginals[b] as number) - (marginals[a] as number))
      .slice(0, TOLD),
  );
  const suspects = model.faults.map((f, i): Suspect => {
    const speaksFor: Weight[] = [];
    const speaksAgainst: Weight[] = [];
    const unexplained: string[] = [];
    columns.forEach(({ e, column }, k) => {
      const own = column.p[i] as number;
      const others = (mean[k] as number) - (prior[i] as number) * own;
      const ratio = (own * (1 - (prior[i] as number))) / others;
      if (!told.has(i)) return;
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
    leverage: (evidence.some((e) => e.table === "tried") ? leverageOfEntries : leverageOf)(model, evidence, belief)
      .sort((a, b) => Number(b.flips) - Number(a.flips) || a.leaderWithout - b.leaderWithout)
      .slice(0, LEVERS),
    poorlyExplained:
      best !== undefined &&
      (best.faultIds.includes(UNKNOWN_ID) || unknown > UNKNOWN_LEADS || best.unexplained.length > 0),
  };
}

const titlesOf = (model: SuspectModel, members: readonly number[]) => members.map((i) => model.faults[i]?.title ?? "");

/** Sets below this cannot come to lead by leaving one thing out. */
const NEGLIGIBLE = 1e-6;

/** With repairs between them pieces do not multiply to the odds: every entry is left out as a whole. */
function leverageOfEntries(model: SuspectModel, evidence: readonly Evidence[], belief: Belief): Leverage[] {
  const leader = belief.best();
  const groups = [...new Set(evidence.map((e) => e.entryId))].map((id) => evidence.filter((e) => e.entryId === id));
  return believeWithout(model, evidence, groups).flatMap((other, at): Leverage[] => {
    const group = groups[at] as Evidence[];
    const lead = other.best();
    const leaderWithout = other.of(leader.members);
    const flips = lead.members.join() !== leader.members.join();
    if (!flips && Math.abs(leaderWithout - leader.probability) < LEAST_LEVERAGE) return [];
    return [
      {
        evidenceIds: group.map((e) => e.id),
        entryId: group[0]?.entryId ?? "",
        label: labelOf(group),
        leaderWithout,
        without: { titles: titlesOf(model, lead.members), probability: lead.probability },
        contrary: undefined,
        flips,
      },
    ];
  });
}

const labelOf = (group: readonly Evidence[]): string =>
  group.length === 1 ? (group[0]?.label ?? "") : `${group[0]?.label} and ${group.length - 1} more of the same entry`;

/**
 * Leaves every piece of evidence out, then every entry with several: weights divided by what they were multiplied with,
 * over the sets that are not negligible.
 */
function leverageOf(model: SuspectModel, evidence: readonly Evidence[], belief: Belief): Leverage[] {
  const kept = Array.from(belief.p.keys()).filter((k) => (belief.p[k] as number) > NEGLIGIBLE);
  const members = kept.map((k) => model.sets.membersOf(k));
  const silent = Float64Array.from(kept, (k) => belief.silent[k] ?? 0);
  const shows = Float64Array.from(kept, (k, n) => (belief.p[k] as number) - (silent[n] as number));
  const leader = leadOf(shows.map((x, n) => x + (silent[n] as number)));
  const groups: Evidence[][] = evidence.map((e) => [e]);
  const byEntry = new Map<string, Evidence[]>();
  for (const e of evidence) byEntry.set(e.entryId, [...(byEntry.get(e.entryId) ?? []), e]);
  for (const list of byEntry.values()) if (list.length > 1) groups.push(list);
  // the singles come first, and only they may be silent
  const quietCount = kept.findIndex((k) => k >= model.faults.length);
  const singles = quietCount < 0 ? kept.length : quietCount;
  // likelihoods of each piece under each set that is kept, and under each that is silent
  const factors = new Map(
    evidence.map((e) => {
      const column = model.column(e);
      const bySingle = new Float64Array(model.faults.length).fill(1);
      column.multiplySilent(bySingle);
      const quiet = Float64Array.from(kept.slice(0, singles), (k) => bySingle[k] as number);
      return [e, { own: column.ofSets(kept, members, model.sets), quiet }] as const;
    }),
  );
  const say = (lead: { at: number; p: number }) => ({
    titles: titlesOf(model, members[lead.at] as readonly number[]),
    probability: lead.p,
  });
  const out: Leverage[] = [];
  const together = (own: Float64Array, quiet: Float64Array): Float64Array => {
    const sum = own.slice();
    for (let n = 0; n < singles; n++) sum[n] = (sum[n] as number) + (quiet[n] as number);
    return sum;
  };
  for (const group of groups) {
    const [first] = group as [Evidence];
    const own = shows.slice();
    const quiet = silent.slice(0, singles);
    for (const e of group) {
      const f = factors.get(e) as { own: Float64Array; quiet: Float64Array };
      for (let n = 0; n < own.length; n++) own[n] = (own[n] as number) / (f.own[n] as number);
      for (let n = 0; n < singles; n++) quiet[n] = (quiet[n] as number) / (f.quiet[n] as number);
    }
    const without = leadOf(together(own, quiet));
    const leaderWithout = without.all[leader.at] as number;
    const flips = without.at !== leader.at;
    if (!flips && Math.abs(leaderWithout - leader.p) < LEAST_LEVERAGE) continue;
    let contrary: Leverage["contrary"];
    if (group.length === 1) {
      const f = factors.get(first) as { own: Float64Array; quiet: Float64Array };
      for (let n = 0; n < own.length; n++) own[n] = (own[n] as number) * Math.max(1e-9, 1 - (f.own[n] as number));
      for (let n = 0; n < singles; n++) quiet[n] = (quiet[n] as number) * Math.max(1e-9, 1 - (f.quiet[n] as number));
      contrary = say(leadOf(together(own, quiet)));
    }
    out.push({
      evidenceIds: group.map((e) => e.id),
      entryId: first.entryId,
      label: labelOf(group),
      leaderWithout,
      without: say(without),
      contrary,
      flips,
    });
  }
  return out;
}

/** The highest of some weights, scaled to a sum of one. */
function leadOf(weights: Float64Array): { readonly at: number; readonly p: number; readonly all: Float64Array } {
  const all = normalise(weights);
  let at = 0;
  for (let n = 1; n < all.length; n++) if ((all[n] as number) > (all[at] as number)) at = n;
  return { at, p: all[at] as number, all };
}
