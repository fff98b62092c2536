import type { Intrusiveness, Knowledge, Source } from "../../knowledge/index.ts";
import { inSentence } from "../../unit/index.ts";
import type { Belief } from "../belief/belief.ts";
import { normalise, type SuspectModel } from "../belief/model.ts";
import { type Check, type Repair, relationHolds, repairsLeft } from "../faults/instances.ts";
import type { FaultSet } from "../faults/sets.ts";
import { accessLeft, isOpen, MOST_ACCESS, type Money, type Opened, openedBy, type Price, priceOf } from "./price.ts";

/** Of a check from where the job stands: getting there and making it. */
export function checkEffort(knowledge: Knowledge, check: Check, opened: Opened) {
  const left = accessLeft(knowledge, check.intrusiveness, opened);
  return { minutes: check.minutes + left.minutes, materialCost: check.materialCost + left.materialCost };
}

/** What breaks on the way, on average: lines, bolts, clips. Part of every plan, of no bill. */
function mishapLeft(knowledge: Knowledge, level: Intrusiveness, opened: Opened): number {
  return isOpen(opened, level) ? 0 : knowledge.access[level].mishapCost;
}

/** Sets that are planned with, and what they must hold of the belief. */
const SETS = 40;
const SHARE = 0.995;
const BUNDLES = 4;
/** The greater one fills what the smaller one would. */
const REFILLS = ["pan", "whole"] as const;
/** A repair for a fault cures it so likely. */
export const CURES_MOSTLY = 0.5;

export interface Step {
  readonly to: number;
  readonly p: number;
}

/**
 * The belief cut to the sets of faults that matter, with the checks that part them and the repairs that cure them: what
 * plans are made in. Everything here is by position: set k, repair r, check c.
 */
export class PlanSpace {
  readonly model: SuspectModel;
  readonly money: Money;
  readonly sets: readonly FaultSet[];
  /** probability of each set, sums to one */
  readonly start: Float64Array;
  /** those that may cure, and those asked for */
  readonly repairs: readonly Repair[];
  /** ids of repairs that are planned with though they cure nothing that matters */
  readonly asked: ReadonlySet<string>;
  /** repairs of the unit, whether they may cure or not */
  readonly offered: readonly Repair[];
  /** cures[r][k]: probability that the repair cures all of the set */
  readonly cures: readonly Float64Array[];
  readonly checks: readonly Check[];
  /** by repair and set, for sets of several faults: what a failed repair leaves */
  readonly steps: readonly (readonly (readonly Step[] | undefined)[])[];
  /** for each set, what its cheapest cure costs, comebacks included */
  readonly later: Float64Array;
  /** for each set, those that it is made of */
  readonly parts: readonly (readonly number[])[];
  private readonly gives: readonly Opened[];
  private readonly priceLists = new Map<Opened, Float64Array>();
  private readonly checkPrices = new Map<Opened, Float64Array>();
  private readonly rows: (readonly Float64Array[] | undefined)[] = [];
  /** when nothing that was tried cured */
  readonly lastResort: number;
  /** may a failed repair be followed by another look that finds the fault? One that found nothing before is not trusted again */
  readonly looksAgain: boolean;

  /**
   * @param checks - those that may be made
   * @param repairs - those of the unit
   * @param looksAgain - see the field
   * @param asked - see the field
   */
  constructor(
    model: SuspectModel,
    money: Money,
    belief: Belief,
    repairs: readonly Repair[] = repairsLeft(model.repairs, new Set()),
    checks: readonly Check[] = model.checks,
    looksAgain = true,
    asked: ReadonlySet<string> = new Set(),
  ) {
    this.asked = asked;
    this.offered = repairs;
    this.looksAgain = looksAgain;
    this.model = model;
    this.money = money;
    this.sets = closed(belief.top(SETS, SHARE));
    this.parts = partsOf(this.sets);
    this.start = normalise(Float64Array.from(this.sets, (s) => s.probability));
    const single = repairs.map((r) => ({ repair: r, cure: cureOf(model, r) }));
    const all = [...single, ...bundles(model, this.sets, single)];
    const useful = all
      .map(({ repair, cure }) => ({ repair, cure, cures: this.cureOfSets(cure, repair.option === "exchange") }))
      .filter(
        ({ repair, cures }) => asked.has(repair.id) || cures.some((c, k) => c > 0 && (this.start[k] as number) > 0),
      );
    this.repairs = useful.map((u) => u.repair);
    this.cures = useful.map((u) => u.cures);
    this.steps = useful.map((u) => (u.repair.option === "exchange" ? this.stepsAtOnce(u.cure) : this.stepsOf(u.cure)));
    const cost = (r: Repair) => this.priceOf(r, 0).total;
    const exchanges = repairs.filter((r) => r.option === "exchange").map(cost);
    this.lastResort = exchanges.length > 0 ? Math.min(...exchanges) : Math.max(0, ...repairs.map(cost));
    const plain = this.prices(0);
    this.later = Float64Array.from(this.sets, (_, k) =>
      this.repairs.reduce((least, _r, r) => {
        const cures = this.cures[r]?.[k] as number;
        return cures >= CURES_MOSTLY ? Math.min(least, (plain[r] as number) / cures) : least;
      }, this.lastResort),
    );
    this.checks = checks;
    this.gives = checks.map((c) => openedBy(model.knowledge, [c.intrusiveness]));
  }

  /** What a repair is when it is done once more, with its cure of each set; undefined when it is not offered again. */
  again(r: number): { readonly repair: Repair; readonly cures: Float64Array } | undefined {
    const { id } = this.repairs[r] as Repair;
    const repair = this.model.repairs.find((x) => x.again === id);
    return repair && { repair, cures: this.cureOfSets(cureOf(this.model, repair), repair.option === "exchange") };
  }

  private cureOfSets(cure: Float64Array, atOnce: boolean): Float64Array {
    // a unit that is changed takes all that sits in it along at once
    const at = (p: number, c: number) => (atOnce ? Math.min(p, c) : p * c);
    return Float64Array.from(this.sets, (s) => s.members.reduce((p, i) => at(p, cure[i] as number), 1));
  }

  /** What a failed repair leaves of sets with several faults: it may have cured some of them. */
  private stepsOf(cure: Float64Array): (readonly Step[] | undefined)[] {
    const at = new Map(this.sets.map((s, k) => [s.members.join(), k]));
    return this.sets.map(({ members }) => {
      if (members.length < 2) return undefined;
      const steps: Step[] = [];
      for (let left = 1; left < 1 << members.length; left++) {
        let p = 1;
        members.forEach((i, n) => {
          const c = cure[i] as number;
          p *= left & (1 << n) ? 1 - c : c;
        });
        const to = at.get(members.filter((_, n) => left & (1 << n)).join());
        if (p > 0 && to !== undefined) steps.push({ to, p });
      }
      return steps;
    });
  }

  /** What a changed unit leaves: all that sits in it is cured together or not at all, what sits outside stays. */
  private stepsAtOnce(cure: Float64Array): (readonly Step[] | undefined)[] {
    const at = new Map(this.sets.map((s, k) => [s.members.join(), k]));
    return this.sets.map(({ members }, k) => {
      const outside = members.filter((i) => cure[i] === 0);
      const to = outside.length === 0 ? undefined : at.get(outside.join());
      if (members.length < 2 || to === undefined || outside.length === members.length) return undefined;
      const p = Math.min(...members.filter((i) => cure[i] !== 0).map((i) => cure[i] as number));
      return [
        { to, p },
        { to: k, p: 1 - p },
      ];
    });
  }

  /** The same space with fewer checks and repairs. @param checks @param repairs - by position here */
  narrowed(checks: readonly number[], repairs: readonly number[]): PlanSpace {
    const pick = <T>(list: readonly T[], at: readonly number[]) => at.map((i) => list[i] as T);
    return this.but({
      checks: pick(this.checks, checks),
      repairs: pick(this.repairs, repairs),
      cures: pick(this.cures, repairs),
      steps: pick(this.steps, repairs),
      rows: pick(this.rows, checks),
      gives: pick(this.gives, checks),
      priceLists: new Map(),
      checkPrices: new Map(),
    });
  }

  /** The same space once a repair has failed: that another look finds the fault is not taken for granted again. */
  onceFailed(): PlanSpace {
    return this.but({ looksAgain: false });
  }

  private but(changes: object): PlanSpace {
    return Object.assign(Object.create(PlanSpace.prototype), this, changes);
  }

  /** Cost of a set that came back: the comeback, another look that finds it, its cure. */
  lookAgain(k: number): number {
    const { comebackCost, secondLookCost } = this.model.knowledge;
    return comebackCost + secondLookCost + (this.later[k] as number);
  }

  /** What the owner pays for a repair. */
  priceOf(repair: Repair, opened: Opened, source?: Source): Price {
    return priceOf(this.model.unit, this.model.knowledge, repair, source, opened, this.money);
  }

  /** What each repair costs in a plan, with what is open: its price, and what breaks on the way on average. */
  prices(opened: Opened): Float64Array {
    let list = this.priceLists.get(opened);
    if (!list) {
      list = Float64Array.from(
        this.repairs,
        (r) => this.priceOf(r, opened).total + mishapLeft(this.model.knowledge, r.intrusiveness, opened),
      );
      this.priceLists.set(opened, list);
    }
    return list;
  }

  /** Cost of each check with what is open. */
  checkCosts(opened: Opened): Float64Array {
    let list = this.checkPrices.get(opened);
    if (!list) {
      list = Float64Array.from(this.checks, (c) => {
        const effort = checkEffort(this.model.knowledge, c, opened);
        return (
          (effort.minutes / 60) * this.money.hourlyRate +
          effort.materialCost +
          mishapLeft(this.model.knowledge, c.intrusiveness, opened)
        );
      });
      this.checkPrices.set(opened, list);
    }
    return list;
  }

  /** P(outcome | set) for each outcome of a check. */
  outcomeRows(c: number): readonly Float64Array[] {
    let rows = this.rows[c];
    if (!rows) {
      const check = this.checks[c] as Check;
      rows = check.outcomes.map((o) => {
        const column = this.model.column({
          table: "check",
          checkId: check.id,
          subject: { component: check.component },
          outcome: o.id,
        });
        return Float64Array.from(this.sets, (s) => column.of(s.members));
      });
      this.rows[c] = rows;
    }
    return rows;
  }

  opens(opened: Opened, c: number): Opened {
    return opened | (this.gives[c] as Opened);
  }

  /** Probability that a repair cures. @param p - sums to one, or to what is left */
  curesOf(p: Float64Array, r: number): number {
    const cures = this.cures[r] as Float64Array;
    let sum = 0;
    for (let k = 0; k < p.length; k++) sum += (p[k] as number) * (cures[k] as number);
    return sum;
  }

  /** What is left uncured after a repair, by set; not scaled. */
  after(p: Float64Array, r: number): Float64Array {
    const cures = this.cures[r] as Float64Array;
    const steps = this.steps[r] as readonly (readonly Step[] | undefined)[];
    const left = new Float64Array(p.length);
    for (let k = 0; k < p.length; k++) {
      const mass = p[k] as number;
      if (mass === 0) continue;
      const way = steps[k];
      if (way) for (const s of way) left[s.to] = (left[s.to] as number) + mass * s.p;
      else left[k] = (left[k] as number) + mass * (1 - (cures[k] as number));
    }
    return left;
  }
}

/** The sets with every part of them, so that a repair that cures one fault of several leads somewhere. */
function closed(sets: readonly FaultSet[]): FaultSet[] {
  const out = new Map(sets.map((s) => [s.members.join(), s]));
  for (const { members } of sets) {
    for (let part = 1; part < (1 << members.length) - 1; part++) {
      const some = members.filter((_, n) => part & (1 << n));
      if (!out.has(some.join())) out.set(some.join(), { members: some, probability: 0 });
    }
  }
  return [...out.values()];
}

function partsOf(sets: readonly FaultSet[]): number[][] {
  const at = new Map(sets.map((s, k) => [s.members.join(), k]));
  return sets.map(({ members }) => {
    const out: number[] = [];
    for (let part = 1; part < (1 << members.length) - 1; part++) {
      const k = at.get(members.filter((_, n) => part & (1 << n)).join());
      if (k !== undefined) out.push(k);
    }
    return out;
  });
}

/** P(cured | fault) by fault. */
export function cureOf(model: SuspectModel, repair: Repair): Float64Array {
  return Float64Array.from(model.faults, (f) => {
    const hit = repair.cures.find(
      (c) =>
        c.faults.includes(f.classId) &&
        relationHolds(model.unit, c.relation, f.component, { component: repair.component }),
    );
    return hit?.p ?? 0;
  });
}

interface Curing {
  readonly repair: Repair;
  readonly cure: Float64Array;
}

/** Several repairs in one visit, for the likeliest sets of several faults. */
function bundles(model: SuspectModel, sets: readonly FaultSet[], single: readonly Curing[]): Curing[] {
  const out = new Map<string, Curing>();
  const several = sets.filter((s) => s.members.length > 1 && s.probability > 0).slice(0, BUNDLES);
  for (const { members } of several) {
    const parts = members.map((i) =>
      single
        .filter((s) => (s.cure[i] as number) >= CURES_MOSTLY)
        .reduce<Curing | undefined>((a, b) => (a && plainCost(a.repair) <= plainCost(b.repair) ? a : b), undefined),
    );
    if (parts.some((p) => p === undefined)) continue;
    const distinct = [...new Set(parts as Curing[])];
    if (distinct.length < 2) continue;
    const repairs = distinct.map((d) => d.repair);
    const id = repairs.map((r) => r.id).join("+");
    const [first] = repairs as [Repair];
    const deepest = repairs.reduce((a, b) =>
      model.knowledge.access[b.intrusiveness].minutes > model.knowledge.access[a.intrusiveness].minutes ? b : a,
    );
    // what is open for the deepest is open for the others
    const { access } = model.knowledge;
    const shared = (r: Repair) =>
      r !== deepest &&
      (r.intrusiveness === deepest.intrusiveness || access[deepest.intrusiveness].gives.includes(r.intrusiveness))
        ? Math.min(access[r.intrusiveness].minutes / 60, MOST_ACCESS * r.hours[0])
        : 0;
    const hours = ([0, 1, 2] as const).map((n) => repairs.reduce((s, r) => s + r.hours[n] - shared(r), 0));
    out.set(id, {
      repair: {
        ...first,
        id,
        kindId: repairs.map((r) => r.kindId).join("+"),
        title: repairs.map((r, n) => (n === 0 ? r.title : inSentence(r.title))).join("; "),
        hours: [hours[0] as number, hours[1] as number, hours[2] as number],
        partsCost: repairs.reduce((s, r) => s + r.partsCost, 0),
        intrusiveness: deepest.intrusiveness,
        option: deepest.option,
        sources: undefined,
        refill: REFILLS.findLast((x) => repairs.some((r) => r.refill === x)),
        cautions: [...new Set(repairs.flatMap((r) => r.cautions))],
        cures: repairs.flatMap((r) => r.cures),
        costly: repairs.some((r) => r.costly),
      },
      cure: Float64Array.from(
        model.faults,
        (_, i) => 1 - distinct.reduce((q, d) => q * (1 - (d.cure[i] as number)), 1),
      ),
    });
  }
  return [...out.values()];
}

const plainCost = (r: Repair) => r.hours[1] * 60 + r.partsCost;
