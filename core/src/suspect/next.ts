import { type Check, generateRepairs, type Repair, relationHolds } from "./instances.ts";
import { normalise, type SuspectModel } from "./rank.ts";

export interface Money {
  /** labour rate of the shop, money an hour */
  readonly hourlyRate: number;
}

export interface Option {
  readonly repair: Repair;
  readonly cost: number;
  /** probability that it cures, given the odds */
  readonly cures: number;
  /** expected total: this repair, and when it does not cure, the comeback and the repairs tried after it */
  readonly expectedCost: number;
}

export interface CheckBranch {
  readonly outcome: string;
  readonly label: string;
  readonly probability: number;
  readonly then:
    | {
        readonly kind: "repair";
        readonly id: string;
        readonly title: string;
        readonly expectedCost: number;
        readonly cures: number;
      }
    | { readonly kind: "check"; readonly id: string; readonly title: string; readonly expectedCost: number };
}

export interface NextCheck {
  readonly check: Check;
  readonly cost: number;
  readonly expectedCost: number;
  readonly branches: readonly CheckBranch[];
}

export interface Advice {
  readonly options: readonly Option[];
  /** by expected total cost, best first */
  readonly checks: readonly NextCheck[];
  /** what to do now: the best check when it lowers the expected cost, else the best repair */
  readonly act: "check" | "repair";
}

const MOST_TRIES = 5;
const NEGLIGIBLE = 0.01;
/** Checks that are looked at two ahead, and second checks tried for each of their outcomes. */
const DEEP_FIRST = 5;
const DEEP_SECOND = 8;

/** Repairs with their cure probabilities per fault, made once for a model. */
export class Planner {
  readonly model: SuspectModel;
  readonly repairs: readonly Repair[];
  private readonly rate: number;
  private readonly costs: Float64Array;
  /** cure[r][f] */
  private readonly cure: readonly Float64Array[];
  /** when nothing that was tried cured: the dearest repair there is */
  private readonly lastResort: number;

  constructor(model: SuspectModel, money: Money) {
    this.model = model;
    this.rate = money.hourlyRate;
    this.repairs = generateRepairs(model.unit, model.knowledge);
    this.costs = Float64Array.from(this.repairs, (r) => r.hours[1] * money.hourlyRate + r.partsCost);
    this.cure = this.repairs.map((r) =>
      Float64Array.from(model.faults, (f) => {
        const hit = r.cures.find(
          (c) =>
            c.faults.includes(f.classId) &&
            relationHolds(model.unit, c.relation, f.component, { component: r.component }),
        );
        return hit?.p ?? 0;
      }),
    );
    this.lastResort = Math.max(...this.costs);
  }

  checkCost(check: Check): number {
    return (check.minutes / 60) * this.rate + check.materialCost;
  }

  options(p: Float64Array): Option[] {
    return this.repairs
      .map((repair, r): Option => {
        const { left, cures } = this.tried(p, r);
        const cost = this.costs[r] as number;
        return { repair, cost, cures, expectedCost: cost + this.afterFailure(left) };
      })
      .sort((a, b) => a.expectedCost - b.expectedCost || a.repair.id.localeCompare(b.repair.id));
  }

  /** Probability mass that a repair leaves uncured, by fault (not scaled to one), and what it cures. */
  private tried(p: Float64Array, r: number): { left: Float64Array; cures: number } {
    const cure = this.cure[r] as Float64Array;
    const left = new Float64Array(p.length);
    let cures = 0;
    for (let f = 0; f < p.length; f++) {
      const c = (p[f] as number) * (cure[f] as number);
      cures += c;
      left[f] = (p[f] as number) - c;
    }
    return { left, cures };
  }

  /**
   * Expected cost after a repair that did not cure: repairs tried one after another, each time the one with the most cure
   * for its money, every one with a comeback before it. Nothing is learnt for free from a failure but that it failed.
   */
  private afterFailure(mass: Float64Array): number {
    let left = mass;
    let open = left.reduce((a, b) => a + b, 0);
    let expected = 0;
    for (let step = 0; step < MOST_TRIES && open > NEGLIGIBLE; step++) {
      let best = -1;
      let worth = 0;
      for (let r = 0; r < this.repairs.length; r++) {
        const cure = this.cure[r] as Float64Array;
        let cures = 0;
        for (let f = 0; f < left.length; f++) cures += (left[f] as number) * (cure[f] as number);
        const value = cures / (this.model.knowledge.comebackCost + (this.costs[r] as number));
        if (value > worth) {
          worth = value;
          best = r;
        }
      }
      if (best < 0) break;
      expected += open * (this.model.knowledge.comebackCost + (this.costs[best] as number));
      left = this.tried(left, best).left;
      open = left.reduce((a, b) => a + b, 0);
    }
    return expected + open * (this.model.knowledge.comebackCost + this.lastResort);
  }

  /** Expected cost of acting now, without another check. */
  private actNow(p: Float64Array): number {
    return this.options(p)[0]?.expectedCost ?? Infinity;
  }

  private outcomes(
    check: Check,
    p: Float64Array,
  ): { id: string; label: string; probability: number; posterior: Float64Array }[] {
    return check.outcomes.map((o) => {
      const l = this.model.likelihoods(check, { component: check.component }, o.id);
      const joint = p.map((x, i) => x * (l[i] as number));
      const probability = joint.reduce((a, b) => a + b, 0);
      return { ...o, probability, posterior: probability > 0 ? normalise(joint) : joint };
    });
  }

  private oneCheck(check: Check, p: Float64Array): number {
    let cost = this.checkCost(check);
    for (const o of this.outcomes(check, p)) if (o.probability > 0) cost += o.probability * this.actNow(o.posterior);
    return cost;
  }

  /**
   * What to do next by expected total cost to a correct repair, looking two checks ahead for the few that look best one
   * ahead. A check is worth it only when it lowers the expected cost.
   * @param p - posterior in the order of the model's faults
   * @param done - ids of checks already made
   */
  advise(p: Float64Array, done: ReadonlySet<string>): Advice {
    const open = this.model.checks.filter((c) => !done.has(c.id));
    const first = open
      .map((check) => ({ check, expected: this.oneCheck(check, p) }))
      .sort((a, b) => a.expected - b.expected || a.check.id.localeCompare(b.check.id));
    const options = this.options(p);
    const now = options[0]?.expectedCost ?? Infinity;
    const checks = first.map(({ check, expected }, rank): NextCheck => {
      const branches: CheckBranch[] = [];
      let deep = this.checkCost(check);
      for (const o of this.outcomes(check, p)) {
        if (o.probability <= 0) continue;
        const best = this.options(o.posterior)[0] as Option;
        let then: CheckBranch["then"] = {
          kind: "repair",
          id: best.repair.id,
          title: best.repair.title,
          expectedCost: best.expectedCost,
          cures: best.cures,
        };
        if (rank < DEEP_FIRST) {
          for (const { check: second } of first.slice(0, DEEP_SECOND)) {
            if (second.id === check.id) continue;
            const cost = this.oneCheck(second, o.posterior);
            if (cost < then.expectedCost - 1)
              then = { kind: "check", id: second.id, title: second.title, expectedCost: cost };
          }
        }
        deep += o.probability * then.expectedCost;
        branches.push({ outcome: o.id, label: o.label, probability: o.probability, then });
      }
      return { check, cost: this.checkCost(check), expectedCost: Math.min(expected, deep), branches };
    });
    checks.sort((a, b) => a.expectedCost - b.expectedCost || a.check.id.localeCompare(b.check.id));
    const best = checks[0];
    return { options, checks, act: best && best.expectedCost < now - 1 ? "check" : "repair" };
  }
}
