import type { Knowledge, LikelihoodRow } from "../../knowledge/index.ts";
import type { Unit } from "../../unit/index.ts";
import type { Evidence } from "../evidence/evidence.ts";
import {
  type Check,
  type CustomFault,
  type Fault,
  generateChecks,
  generateFaults,
  generateRepairs,
  type Repair,
  relationHolds,
  type Subject,
} from "../faults/instances.ts";
import { FaultSets } from "../faults/sets.ts";
import { Belief } from "./belief.ts";
import { Column } from "./column.ts";

export const UNKNOWN_ID = "unknown";
/** Nothing is wrong with the vehicle. */
export const NOTHING_ID = "nothing";
/** Raised whenever the same evidence may give other odds. */
export const MODEL_VERSION = 14;

/** How far the leak term goes towards the best explanation of each evidence. */
const LEAK_SHARE = 0.35;

export interface Table {
  readonly together?: "either" | "repair" | undefined;
  readonly drive?: true | undefined;
  readonly otherwise: Readonly<Record<string, number>>;
  readonly rows: readonly LikelihoodRow[];
}

/** Of what a repair cures so much is better and not gone at first: a relearn that is due, work that is done again. */
const HALF_CURED = 0.1;

/** Against a half: how often what is wrong was renewed here before. */
const FITTED = 0.15;

/** Weights of sets of three and more are not stored; products of the whole are scaled so often that none runs dry. */
export const SCALE_EVERY = 24;

/**
 * The model of one unit: faults, tables and priors, made once and asked often.
 */
export class SuspectModel {
  readonly unit: Unit;
  readonly knowledge: Knowledge;
  /** faults that form pairs, then those that stand alone, then "unknown", then "nothing" */
  readonly faults: readonly Fault[];
  readonly checks: readonly Check[];
  readonly repairs: readonly Repair[];
  readonly sets: FaultSets;
  /** prior probability of each set */
  readonly priors: Float64Array;
  /** what a set of three weighs: the product of the weights of its faults times this */
  readonly tripleScale: number;
  private readonly custom: ReadonlyMap<string, CustomFault>;
  private readonly tables: ReadonlyMap<string, Table>;
  private readonly checkById: ReadonlyMap<string, Check>;
  private readonly repairById: ReadonlyMap<string, Repair>;
  private readonly columns = new Map<string, Column>();
  /** the same for a piece that was asked for before */
  private readonly byEvidence = new WeakMap<object, Column>();
  private readonly excluded: readonly (readonly [string, string])[];

  /**
   * @param custom - faults of somebody's own beside those of the library
   * @throws Error when a custom fault has no usable prior or likelihoods
   */
  constructor(unit: Unit, knowledge: Knowledge, custom: readonly CustomFault[] = []) {
    this.unit = unit;
    this.knowledge = knowledge;
    const known = generateFaults(unit, knowledge);
    const pseudo = (id: string, { title, weight }: { title: string; weight: number }): Fault => ({
      id,
      classId: id,
      component: id,
      group: "elsewhere",
      title,
      weight,
      silent: 0,
    });
    const sum = known.reduce((s, f) => s + f.weight, 0) + knowledge.unknown.weight + knowledge.nothing.weight;
    const own = custom.map((c): Fault => {
      if (!(c.prior > 0 && c.prior < 1))
        throw new Error(
          `fault "${c.id}": its prior is ${c.prior}; it has to lie between 0 and 1, both left out: what is certain needs no evidence`,
        );
      if (known.some((f) => f.id === c.id) || custom.filter((x) => x.id === c.id).length > 1)
        throw new Error(`fault "${c.id}" is there already: give it another id`);
      // a prior against all others together
      return { ...pseudo(c.id, { title: c.title, weight: (c.prior / (1 - c.prior)) * sum }), group: c.group };
    });
    this.custom = new Map(custom.map((c) => [c.id, c]));
    const pairing = [...known.filter((f) => !f.alone), ...own];
    this.faults = [
      ...pairing,
      ...known.filter((f) => f.alone),
      pseudo(UNKNOWN_ID, knowledge.unknown),
      pseudo(NOTHING_ID, knowledge.nothing),
    ];
    this.sets = new FaultSets(this.faults, pairing.length);
    this.checks = generateChecks(unit, knowledge);
    this.checkById = new Map(this.checks.map((c) => [c.id, c]));
    this.repairs = generateRepairs(unit, knowledge);
    this.repairById = new Map(this.repairs.map((r) => [r.id, r]));
    this.tables = new Map(knowledge.evidence.map((t) => [t.evidence, t.drive ? floored(t) : t]));
    this.excluded = knowledge.several.never;
    const { priors, tripleScale } = this.setPriors();
    this.priors = priors;
    this.tripleScale = tripleScale;
    for (const c of custom) this.checkCustom(c);
  }

  /**
   * The same unit and knowledge with other priors: what evidence says stays, and is worked out once for both.
   * @param factors - by class of fault, how many times as likely; absent: as it is
   */
  weighing(factors: ReadonlyMap<string, number>): SuspectModel {
    const other: SuspectModel = Object.assign(Object.create(SuspectModel.prototype), this);
    const faults = this.faults.map((f) => ({ ...f, weight: f.weight * (factors.get(f.classId) ?? 1) }));
    Object.assign(other, { faults });
    return Object.assign(other, other.setPriors());
  }

  /** Does one component rule the other fault out? */
  excludes(i: number, j: number): boolean {
    const [a, b] = [this.faults[i] as Fault, this.faults[j] as Fault];
    return (
      a.component === b.component &&
      this.excluded.some(([x, y]) => (x === a.classId && y === b.classId) || (x === b.classId && y === a.classId))
    );
  }

  /** What a pair weighs beyond the product of its faults: one brings the other about. */
  affinity(i: number, j: number): number {
    if (this.excludes(i, j)) return 0;
    const [a, b] = [(this.faults[i] as Fault).classId, (this.faults[j] as Fault).classId];
    let factor = 1;
    for (const t of this.knowledge.several.together)
      if ((t.a.includes(a) && t.b.includes(b)) || (t.a.includes(b) && t.b.includes(a)))
        factor = Math.max(factor, t.factor);
    return factor;
  }

  private setPriors() {
    const n = this.faults.length;
    const priors = new Float64Array(this.sets.count);
    let singles = 0;
    for (let i = 0; i < n; i++) singles += priors[i] = (this.faults[i] as Fault).weight;
    let pairs = 0;
    let plain = 0;
    for (let i = 0, at = n; i < this.sets.real; i++)
      for (let j = i + 1; j < this.sets.real; j++, at++) {
        const both = (priors[i] as number) * (priors[j] as number);
        plain += both;
        pairs += priors[at] = both * this.affinity(i, j);
      }
    const { share } = this.knowledge.several;
    const scale = pairs > 0 ? (share * singles) / pairs : 0;
    for (let k = n; k < priors.length; k++) priors[k] = (priors[k] as number) * scale;
    const total = singles * (1 + (pairs > 0 ? share : 0));
    for (let k = 0; k < priors.length; k++) priors[k] = (priors[k] as number) / total;
    // three independent faults: one more factor of the odds that a pair has against a single
    const perWeight = plain > 0 ? (share * singles) / plain : 0;
    return { priors, tripleScale: (perWeight * perWeight) / total };
  }

  private checkCustom(c: CustomFault): void {
    for (const [name, p] of Object.entries(c.predicts)) {
      const table = this.tables.get(name);
      if (!table) throw new Error(`fault "${c.id}": no evidence "${name}"`);
      const outcomes = Object.keys(table.otherwise);
      const values = outcomes.map((o) => p[o] ?? Number.NaN);
      if (values.some((v) => !(v > 0 && v < 1)) || Object.keys(p).length !== outcomes.length)
        throw new Error(
          `fault "${c.id}", evidence "${name}": needs a probability between 0 and 1, both left out, for each of ${outcomes.join(", ")}`,
        );
      if (Math.abs(values.reduce((a, b) => a + b, 0) - 1) > 1e-3)
        throw new Error(`fault "${c.id}", evidence "${name}": the probabilities do not sum to one`);
    }
  }

  /** @returns undefined when the knowledge has no such table, check or rung */
  findTable(evidence: Pick<Evidence, "table" | "checkId">): Table | undefined {
    if (evidence.table === "check") return this.checkById.get(evidence.checkId ?? "");
    if (evidence.table === "observation") return this.knowledge.rungs.find((r) => r.id === evidence.checkId);
    if (evidence.table === "fitted") return this.fittedTable(evidence.checkId ?? "");
    if (evidence.table === "tried") return this.triedTable(evidence.checkId ?? "");
    return this.tables.get(evidence.table);
  }

  /** @returns undefined when the knowledge has no such repair for the unit */
  findRepair(id: string): Repair | undefined {
    return this.repairById.get(id);
  }

  /**
   * A repair that was done is evidence: what it would have cured is less likely when nothing changed, and seldom all that
   * is wrong when it is better and not gone.
   */
  private triedTable(repairId: string): Table | undefined {
    const repair = this.findRepair(repairId);
    return (
      repair && {
        together: "repair",
        otherwise: { "no-change": 0.96, better: 0.03, gone: 0.01 },
        rows: repair.cures.map((c) => {
          // what was made worse may hide a cure
          const cured = Math.min(0.97, c.p);
          return {
            faults: c.faults,
            relation: c.relation,
            p: { "no-change": 1 - cured, better: HALF_CURED * cured, gone: (1 - HALF_CURED) * cured },
            why: "the repair would have cured it",
          };
        }),
      }
    );
  }

  /** A repair of an earlier job: what it renewed is seldom what is wrong next, though new parts and new work do fail. */
  private fittedTable(repairId: string): Table | undefined {
    const repair = this.findRepair(repairId);
    return (
      repair && {
        otherwise: { fitted: 0.5, "not-fitted": 0.5 },
        rows: repair.cures.map((c) => ({
          faults: c.faults,
          relation: c.relation,
          p: { fitted: FITTED, "not-fitted": 1 - FITTED },
          why: "it was renewed then",
        })),
      }
    );
  }

  /** Has the unit a part, sensor, solenoid or net of this id? */
  hasComponent(id: string): boolean {
    const u = this.unit;
    return (
      id === "unit" ||
      (id === "converter-clutch" && u.converter !== undefined) ||
      [u.elements, u.solenoids, u.sensors, u.nets].some((list: readonly { id: string }[]) =>
        list.some((c) => c.id === id),
      )
    );
  }

  /** @throws Error when an evidence names a table, check or outcome that the knowledge does not have */
  tableOf(evidence: Pick<Evidence, "table" | "checkId">): Table {
    const table = this.findTable(evidence);
    if (!table)
      throw new Error(
        `no likelihoods for evidence "${evidence.table}${evidence.checkId ? ` ${evidence.checkId}` : ""}"`,
      );
    return table;
  }

  /** Distribution over the outcomes of a table under one fault, with the row it came from. */
  distribution(
    name: string,
    table: Table,
    subject: Subject,
    fault: Fault,
  ): { p: Readonly<Record<string, number>>; why: string | undefined } {
    if (fault.classId === UNKNOWN_ID) return { p: leak(table), why: undefined };
    const own = this.custom.get(fault.id)?.predicts[name];
    if (own) return { p: own, why: this.custom.get(fault.id)?.title };
    const rowOf = (classId: string) =>
      table.rows.find(
        (r) =>
          r.faults.includes(classId) &&
          (r.stays === undefined || r.stays === fault.stays) &&
          (r.at === undefined || r.at === fault.at) &&
          relationHolds(this.unit, r.relation, fault.component, subject),
      );
    const row =
      rowOf(fault.classId) ??
      // a table that names it in another relation says all that there is to say
      (fault.like !== undefined && table.rows.every((r) => !r.faults.includes(fault.classId))
        ? rowOf(fault.like)
        : undefined);
    return row ? { p: row.p, why: row.why } : { p: table.otherwise, why: undefined };
  }

  /** P(outcome | fault), with the row it came from. @throws Error on an unknown outcome */
  likelihood(evidence: Pick<Evidence, "table" | "checkId" | "subject" | "outcome">, fault: Fault) {
    const table = this.tableOf(evidence);
    const { p, why } = this.distribution(evidence.table, table, evidence.subject, fault);
    const found = Object.hasOwn(p, evidence.outcome) ? p[evidence.outcome] : undefined;
    if (found === undefined) throw new Error(`unknown outcome "${evidence.outcome}"`);
    return { p: found, why };
  }

  /**
   * What one outcome says of every fault and of every set of them. What is believed with a weight below one is mixed with
   * what it would be under any fault: w·P(e | fault) + (1 − w)·P(e | otherwise).
   * @throws Error when the evidence names a table, check or outcome that the knowledge does not have
   */
  column(e: Pick<Evidence, "table" | "checkId" | "subject" | "outcome" | "weight" | "power">): Column {
    const before = this.byEvidence.get(e);
    if (before) return before;
    const key = `${e.table}|${e.checkId ?? ""}|${e.outcome}|${e.weight ?? 1}|${e.power ?? 1}|${JSON.stringify(e.subject)}`;
    let column = this.columns.get(key);
    if (!column) {
      const table = this.tableOf(e);
      if (!Object.hasOwn(table.otherwise, e.outcome)) throw new Error(`unknown outcome "${e.outcome}"`);
      column = new Column(
        this.faults.map((f) => this.distribution(e.table, table, e.subject, f).p),
        table.otherwise,
        e.outcome,
        e.weight ?? 1,
        table.together,
        table.drive === true,
        e.power ?? 1,
      );
      if (this.columns.size > 4000) this.columns.clear();
      this.columns.set(key, column);
    }
    this.byEvidence.set(e, column);
    return column;
  }

  /** Likelihood of one outcome of a check under every fault, in the order of `faults`. */
  likelihoods(check: Check, outcome: string): Float64Array {
    return this.column({ table: "check", checkId: check.id, subject: { component: check.component }, outcome }).p;
  }

  /**
   * Exact posterior over all single faults and pairs. A single fault may be silent on the drive: then all that was seen on
   * it is as it would be without the fault. The order of the evidence does not matter.
   */
  posterior(evidence: readonly Evidence[]): Belief {
    const n = this.faults.length;
    const w = Float64Array.from(this.priors);
    const silent = Float64Array.from(this.faults, (f, i) => (w[i] as number) * f.silent);
    for (let i = 0; i < n; i++) w[i] = (w[i] as number) - (silent[i] as number);
    evidence.forEach((e, k) => {
      const column = this.column(e);
      column.multiply(w, this.sets.real, n);
      column.multiplySilent(silent);
      if (k % SCALE_EVERY === SCALE_EVERY - 1) normalise(w, silent);
    });
    normalise(w, silent);
    for (let i = 0; i < n; i++) w[i] = (w[i] as number) + (silent[i] as number);
    return new Belief(this.sets, w, [], silent);
  }
}

/**
 * No drive is so clear that what it shows is never wrong: a vehicle that was not counted, a reading that was spoilt, a fault
 * of a size of its own. Whatever is wrong, the usual outcome keeps at least this probability, and the others together.
 */
export const LEAST_LIKELIHOOD = 0.05;

/**
 * How often a fault of another vehicle shows itself otherwise than on those that were counted: then as if it were not there.
 * Each row is drawn so far towards what is so without any fault.
 */
export const OF_ITS_OWN = 0.05;

function floored<T extends Table>(table: T): T {
  const outcomes = Object.keys(table.otherwise);
  const usual = outcomes.reduce((a, b) => ((table.otherwise[b] as number) > (table.otherwise[a] as number) ? b : a));
  const least = (o: string) => (o === usual ? LEAST_LIKELIHOOD : LEAST_LIKELIHOOD / (outcomes.length - 1));
  const lift = (p: Readonly<Record<string, number>>) => {
    const raised = Object.entries(p).map(([o, x]) => [o, Math.max(x, least(o))] as const);
    const total = raised.reduce((s, [, x]) => s + x, 0);
    return Object.fromEntries(raised.map(([o, x]) => [o, x / total]));
  };
  const otherwise = lift(table.otherwise);
  const shrunk = (p: Readonly<Record<string, number>>) =>
    Object.fromEntries(
      outcomes.map((o) => [o, (1 - OF_ITS_OWN) * (p[o] as number) + OF_ITS_OWN * (otherwise[o] as number)]),
    );
  return { ...table, otherwise, rows: table.rows.map((r) => ({ ...r, p: shrunk(lift(r.p)) })) };
}

/** The leak term explains everything a little, in logarithms: between "not at all" and the best row. */
function leak(table: Table): Record<string, number> {
  const outcomes = Object.keys(table.otherwise);
  const weights = outcomes.map((o) => {
    const usual = table.otherwise[o] as number;
    const best = Math.max(usual, ...table.rows.map((r) => r.p[o] ?? 0));
    return best ** LEAK_SHARE * usual ** (1 - LEAK_SHARE);
  });
  const total = weights.reduce((a, b) => a + b, 0);
  return Object.fromEntries(outcomes.map((o, i) => [o, (weights[i] as number) / total]));
}

/** Scales to a sum of one, in place. @param more - scaled along, part of the sum @throws Error when nothing is left to scale */
export function normalise(p: Float64Array, ...more: readonly Float64Array[]): Float64Array {
  let sum = 0;
  for (const x of p) sum += x;
  for (const list of more) for (const x of list) sum += x;
  if (!(sum > 0 && Number.isFinite(sum))) throw new Error("the evidence leaves no fault possible");
  for (let i = 0; i < p.length; i++) p[i] = (p[i] as number) / sum;
  for (const list of more) for (let i = 0; i < list.length; i++) list[i] = (list[i] as number) / sum;
  return p;
}
