import type { Knowledge, LikelihoodRow } from "../knowledge/index.ts";
import type { Unit } from "../unit/index.ts";
import type { Evidence } from "./evidence.ts";
import { type Check, type Fault, generateChecks, generateFaults, relationHolds, type Subject } from "./instances.ts";

export const UNKNOWN_ID = "unknown";
/** Raised whenever the same evidence may give other odds. */
export const MODEL_VERSION = 2;

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
  readonly title: string;
  readonly probability: number;
  readonly prior: number;
  readonly speaksFor: readonly Weight[];
  readonly speaksAgainst: readonly Weight[];
  /** abnormal evidence that this fault leaves unexplained */
  readonly unexplained: readonly string[];
}

export interface Ranking {
  readonly modelVersion: number;
  readonly suspects: readonly Suspect[];
  /** true when the best suspect leaves something abnormal unexplained or the leak term leads */
  readonly poorlyExplained: boolean;
}

/** How far the leak term goes towards the best explanation of each evidence. */
const LEAK_SHARE = 0.35;

interface Table {
  readonly otherwise: Readonly<Record<string, number>>;
  readonly rows: readonly LikelihoodRow[];
}

/** The model of one unit: faults, tables and priors, made once and asked often. */
export class SuspectModel {
  readonly unit: Unit;
  readonly knowledge: Knowledge;
  readonly faults: readonly Fault[];
  readonly checks: readonly Check[];
  readonly priors: Float64Array;
  private readonly tables: ReadonlyMap<string, Table>;

  constructor(unit: Unit, knowledge: Knowledge) {
    this.unit = unit;
    this.knowledge = knowledge;
    const known = generateFaults(unit, knowledge);
    this.faults = [
      ...known,
      {
        id: UNKNOWN_ID,
        classId: UNKNOWN_ID,
        component: "unknown",
        title: knowledge.unknown.title,
        weight: knowledge.unknown.weight,
      },
    ];
    this.checks = generateChecks(unit, knowledge);
    const total = this.faults.reduce((s, f) => s + f.weight, 0);
    this.priors = Float64Array.from(this.faults, (f) => f.weight / total);
    this.tables = new Map(knowledge.evidence.map((t) => [t.evidence, t]));
  }

  /** @throws Error when an evidence names a table, check or outcome that the knowledge does not have */
  tableOf(evidence: Pick<Evidence, "table" | "checkId">): Table {
    const table =
      evidence.table === "check"
        ? this.checks.find((c) => c.id === evidence.checkId)
        : evidence.table === "observation"
          ? this.knowledge.rungs.find((r) => r.id === evidence.checkId)
          : this.tables.get(evidence.table);
    if (!table)
      throw new Error(
        `no likelihoods for evidence "${evidence.table}${evidence.checkId ? ` ${evidence.checkId}` : ""}"`,
      );
    return table;
  }

  /** P(outcome | fault), with the row it came from. The leak term explains everything a little, in logarithms: between "not at all" and the best row. */
  likelihood(table: Table, subject: Subject, outcome: string, fault: Fault): { p: number; why: string | undefined } {
    const other = table.otherwise[outcome];
    if (other === undefined) throw new Error(`unknown outcome "${outcome}"`);
    if (fault.classId === UNKNOWN_ID) {
      const weight = (o: string) => {
        const usual = table.otherwise[o] as number;
        const best = Math.max(usual, ...table.rows.map((r) => r.p[o] ?? 0));
        return best ** LEAK_SHARE * usual ** (1 - LEAK_SHARE);
      };
      const total = Object.keys(table.otherwise).reduce((sum, o) => sum + weight(o), 0);
      return { p: weight(outcome) / total, why: undefined };
    }
    const row = table.rows.find(
      (r) => r.faults.includes(fault.classId) && relationHolds(this.unit, r.relation, fault.component, subject),
    );
    return row ? { p: row.p[outcome] ?? other, why: row.why } : { p: other, why: undefined };
  }

  /** Likelihood of one outcome under every fault, in the order of `faults`. */
  likelihoods(table: Table, subject: Subject, outcome: string): Float64Array {
    return Float64Array.from(this.faults, (f) => this.likelihood(table, subject, outcome, f).p);
  }

  /**
   * Likelihood of a piece of evidence under every fault. What is believed with a weight below one is mixed with what it
   * would be under any fault: w·P(e | fault) + (1 − w)·P(e | otherwise).
   */
  weighed(e: Evidence): Float64Array {
    const table = this.tableOf(e);
    const l = this.likelihoods(table, e.subject, e.outcome);
    const w = e.weight ?? 1;
    return w >= 1 ? l : l.map((p) => w * p + (1 - w) * (table.otherwise[e.outcome] as number));
  }

  /** Exact posterior over single faults. The order of the evidence does not matter. */
  posterior(evidence: readonly Evidence[]): Float64Array {
    const log = Float64Array.from(this.priors, Math.log);
    for (const e of evidence) {
      const l = this.weighed(e);
      for (let i = 0; i < log.length; i++) log[i] = (log[i] as number) + Math.log(l[i] as number);
    }
    const top = Math.max(...log);
    const p = log.map((x) => Math.exp(x - top));
    return normalise(p);
  }
}

/** Scales to a sum of one, in place. */
export function normalise(p: Float64Array): Float64Array {
  let sum = 0;
  for (const x of p) sum += x;
  for (let i = 0; i < p.length; i++) p[i] = (p[i] as number) / sum;
  return p;
}

/** Ratios within this are not worth a line. */
const WORTH_SAYING = 1.15;
const UNEXPLAINED_BELOW = 0.1;

/** Ranks the faults of a unit by the evidence and says what speaks for and against each. */
export function rankSuspects(model: SuspectModel, evidence: readonly Evidence[]): Ranking {
  const p = model.posterior(evidence);
  const cache = evidence
    .map((e) => ({ e, table: model.tableOf(e) }))
    .map(({ e, table }) => ({ e, table, l: model.weighed(e) }));
  const suspects = model.faults.map((f, i): Suspect => {
    const speaksFor: Weight[] = [];
    const speaksAgainst: Weight[] = [];
    const unexplained: string[] = [];
    for (const { e, table, l } of cache) {
      let others = 0;
      for (let k = 0; k < l.length; k++) if (k !== i) others += (model.priors[k] as number) * (l[k] as number);
      const ratio = ((l[i] as number) * (1 - (model.priors[i] as number))) / others;
      const weight = {
        evidenceId: e.id,
        label: e.label,
        ratio,
        why: model.likelihood(table, e.subject, e.outcome, f).why,
      };
      if (ratio >= WORTH_SAYING) speaksFor.push(weight);
      else if (ratio <= 1 / WORTH_SAYING) speaksAgainst.push(weight);
      if (e.abnormal && (l[i] as number) < UNEXPLAINED_BELOW) unexplained.push(e.label);
    }
    speaksFor.sort((a, b) => b.ratio - a.ratio);
    speaksAgainst.sort((a, b) => a.ratio - b.ratio);
    return {
      faultId: f.id,
      classId: f.classId,
      component: f.component,
      title: f.title,
      probability: p[i] as number,
      prior: model.priors[i] as number,
      speaksFor,
      speaksAgainst,
      unexplained,
    };
  });
  suspects.sort((a, b) => b.probability - a.probability || a.faultId.localeCompare(b.faultId));
  const best = suspects[0];
  return {
    modelVersion: MODEL_VERSION,
    suspects,
    poorlyExplained: best !== undefined && (best.faultId === UNKNOWN_ID || best.unexplained.length > 0),
  };
}
