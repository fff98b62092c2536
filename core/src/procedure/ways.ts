import { type ThreePoint, triangular } from "../chance/index.ts";
import type { Unit } from "../unit/index.ts";
import { choicesOf, compose, type Plan, planOf } from "./compose.ts";
import { LIFT_MINUTES, PLACE_MINUTES, suggestedOrder } from "./order.ts";
import type { Procedure } from "./procedure.ts";

/** What makes a mishap likelier: rust, years and distance, or nothing but the hand that does it. */
export const MISHAP_CAUSES = ["rust", "age", "care"] as const;

/** Something that goes wrong at a step: how often on a vehicle of ten years, 200,000 km and light rust, and what it takes. */
export interface Mishap {
  readonly name: string;
  /** 0…1 */
  readonly odds: number;
  readonly by: (typeof MISHAP_CAUSES)[number];
  readonly minutes: ThreePoint;
  /** what is done then */
  readonly remedy: string;
  readonly parts?: readonly { readonly name: string; readonly cost: number }[] | undefined;
}

export const RUST = ["none", "light", "heavy", "rotten"] as const;
export type Rust = (typeof RUST)[number];
/** How much likelier what rust does is, against light rust. Judgement. */
const RUST_FACTOR: Readonly<Record<Rust, number>> = { none: 0.35, light: 1, heavy: 3, rotten: 6 };

export interface Conditions {
  readonly ageYears: number;
  readonly odometerKm: number;
  readonly rust: Rust;
  /** a second person is in the house */
  readonly helper: boolean;
  /** an engine bar or crane, a table for a whole frame */
  readonly crane: boolean;
}

/** Until somebody who has to be called in is there, min. */
export const CALL_MIN = 25;
/** Steps with a tool that is not in the house: it is fetched or borrowed, min. */
export const FETCH_MIN = 90;
/** Tools that only some shops have. */
const HEAVY_TOOLS = /crane|engine bar|lifting table/i;

/**
 * Odds of a mishap on a vehicle, 0…1: its hazard −ln(1 − p) times what rust, years and distance make of it; a vehicle of ten
 * years and 200,000 km stands for one. Source of the form: proportional hazards (Cox 1972); of the figures: judgement.
 */
export function oddsOf(m: Mishap, c: Conditions): number {
  return 1 - (1 - m.odds) ** wearOf(m.by, c);
}

/** How much likelier than on a vehicle of ten years, 200,000 km and light rust. */
export function wearOf(by: Mishap["by"], c: Pick<Conditions, "ageYears" | "odometerKm" | "rust">): number {
  const wear = 0.5 + c.ageYears / 40 + c.odometerKm / 800_000;
  return by === "care" ? 1 : by === "age" ? wear : wear * RUST_FACTOR[c.rust];
}

export interface WayFigures {
  /** ids of the procedures that were chosen among several */
  readonly ways: readonly string[];
  readonly title: string;
  /** minutes until it is done, from one in ten to nine in ten */
  readonly minutes: ThreePoint;
  /** of all who work on it, on average */
  readonly handsMinutes: number;
  readonly people: number;
  /** fetched or called in: what the house does not have */
  readonly lacks: readonly string[];
  /** money on average: hands and the parts of mishaps */
  readonly cost: number;
  /** share of the drawn jobs in which it was the cheapest, 0…1 */
  readonly bestShare: number;
  readonly risks: readonly {
    readonly name: string;
    readonly odds: number;
    /** on average, when it happens */
    readonly minutes: number;
    readonly remedy: string;
    readonly steps: readonly string[];
  }[];
}

export interface Flip {
  readonly when: string;
  /** title of the way that is then the cheapest */
  readonly way: string;
}

export interface WaysCompared {
  /** cheapest first */
  readonly ways: readonly WayFigures[];
  readonly flips: readonly Flip[];
  readonly conditions: Conditions;
  readonly draws: number;
  readonly seed: number;
}

/** Uniform number of a name in a draw: the same step has the same luck whichever way it belongs to (common random numbers). */
function luck(name: string, draw: number, seed: number): number {
  let h = 0x811c9dc5 ^ Math.imul(seed + 1, 0x9e3779b1) ^ Math.imul(draw + 1, 0x85ebca6b);
  for (let i = 0; i < name.length; i++) h = Math.imul(h ^ name.charCodeAt(i), 0x01000193);
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}

interface Prepared {
  readonly ways: readonly string[];
  readonly title: string;
  readonly plan: Plan;
  /** moving about and standing by, of the suggested order, min */
  readonly besidesMin: number;
  readonly people: number;
  /** times that somebody has to be called, and heavy tools that are needed */
  readonly calls: number;
  readonly tools: readonly string[];
}

/** Every way of choosing among several, with its plan; none when there is nothing to choose. */
function prepared(library: readonly Procedure[], unit: Unit, repairs: readonly string[]): Prepared[] {
  const { plan } = planOf(library, unit, repairs, []);
  if (!plan) return [];
  const choices = choicesOf(library, unit, plan);
  if (choices.length === 0) return [];
  const sets = choices.reduce<readonly Procedure[][]>(
    (all, c) => all.flatMap((set) => c.ways.map((w) => [...set, w])),
    [[]],
  );
  return sets.map((set) => {
    const p = compose(
      library,
      unit,
      plan.repairs,
      set.map((w) => w.id),
    );
    const order = suggestedOrder(p.steps);
    const two = new Set(p.steps.filter((s) => s.people === 2).map((s) => s.key));
    const along = order.steps.map((s) => two.has(s.key));
    return {
      ways: set.map((w) => w.id),
      title: set.map((w) => w.title).join("; "),
      plan: p,
      besidesMin: order.idleMin + order.liftChanges * LIFT_MINUTES + order.placeChanges * PLACE_MINUTES,
      people: two.size > 0 ? 2 : 1,
      calls: along.filter((x, i) => x && !along[i - 1]).length,
      tools: [...new Set(p.steps.flatMap((s) => (s.tools ?? []).filter((t) => HEAVY_TOOLS.test(t))))],
    };
  });
}

interface Drawn {
  readonly minutes: Float64Array;
  readonly cost: Float64Array;
  readonly hands: number;
}

function drawn(
  p: Prepared,
  mishaps: ReadonlyMap<string, Mishap>,
  c: Conditions,
  ratePerH: number,
  draws: number,
  seed: number,
): Drawn {
  const minutes = new Float64Array(draws);
  const cost = new Float64Array(draws);
  let handsSum = 0;
  const calledMin = (c.helper ? 0 : p.calls * CALL_MIN) + (c.crane ? 0 : p.tools.length * FETCH_MIN);
  for (let n = 0; n < draws; n++) {
    let total = p.besidesMin + calledMin;
    let hands = 0;
    let parts = 0;
    for (const s of p.plan.steps) {
      let own = triangular(s.minutes, luck(s.key.replace(/^[^/]*\//, ""), n, seed));
      for (const name of s.mishaps ?? []) {
        const m = mishaps.get(name);
        // the same bolt of the same vehicle is as tight whichever way it is come to
        if (!m || luck(`${s.id} ${name}`, n, seed) >= oddsOf(m, c)) continue;
        own += triangular(m.minutes, luck(`${s.id} ${name} min`, n, seed));
        parts += (m.parts ?? []).reduce((sum, x) => sum + x.cost, 0);
      }
      total += own;
      hands += own * (s.people ?? 1);
    }
    minutes[n] = total;
    cost[n] = ((hands + calledMin) / 60) * ratePerH + parts;
    handsSum += hands;
  }
  return { minutes, cost, hands: handsSum / draws };
}

const mean = (x: Float64Array) => x.reduce((a, b) => a + b, 0) / x.length;
const quantile = (sorted: Float64Array, q: number) =>
  sorted[Math.min(sorted.length - 1, Math.floor(q * sorted.length))] as number;

/** The cheapest on average, by position. */
const cheapest = (all: readonly Drawn[]): number =>
  all.reduce((best, d, i) => (mean(d.cost) < mean((all[best] as Drawn).cost) ? i : best), 0);

const FLIP_DRAWS = 300;

/**
 * Ways to the same end on the same drawn jobs: time with its spread, hands, what goes wrong and how often, and what would make
 * another way the cheapest. Empty when there is no choice.
 * @param ratePerH - what an hour of one person costs, money
 */
export function compareWays(
  library: readonly Procedure[],
  mishapList: readonly Mishap[],
  unit: Unit,
  repairs: readonly string[],
  conditions: Conditions,
  ratePerH: number,
  draws = 1000,
  seed = 1,
): WaysCompared {
  const mishaps = new Map(mishapList.map((m) => [m.name, m]));
  const all = prepared(library, unit, repairs);
  if (all.length === 0) return { ways: [], flips: [], conditions, draws, seed };
  const figures = all.map((p) => drawn(p, mishaps, conditions, ratePerH, draws, seed));
  const wins = new Array<number>(all.length).fill(0);
  for (let n = 0; n < draws; n++) {
    let best = 0;
    figures.forEach((f, i) => {
      if ((f.cost[n] as number) < ((figures[best] as Drawn).cost[n] as number)) best = i;
    });
    wins[best] = (wins[best] as number) + 1;
  }
  const ways = all.map((p, i): WayFigures => {
    const f = figures[i] as Drawn;
    const sorted = f.minutes.toSorted();
    const names = [...new Set(p.plan.steps.flatMap((s) => s.mishaps ?? []))];
    const risks = names.flatMap((name) => {
      const m = mishaps.get(name);
      const steps = p.plan.steps.filter((s) => s.mishaps?.includes(name));
      if (!m) return [];
      const odds = 1 - (1 - oddsOf(m, conditions)) ** steps.length;
      return [
        {
          name,
          odds,
          minutes: m.minutes.reduce((a, b) => a + b, 0) / 3,
          remedy: m.remedy,
          steps: steps.map((s) => s.title),
        },
      ];
    });
    return {
      ways: p.ways,
      title: p.title,
      minutes: [quantile(sorted, 0.1), quantile(sorted, 0.5), quantile(sorted, 0.9)],
      handsMinutes: f.hands,
      people: p.people,
      lacks: [
        ...(conditions.helper || p.calls === 0
          ? []
          : [`a helper is called in ${p.calls === 1 ? "once" : `${p.calls} times`}`]),
        ...(conditions.crane ? [] : p.tools.map((t) => `${t} is borrowed`)),
      ],
      cost: mean(f.cost),
      bestShare: (wins[i] as number) / draws,
      risks: risks.sort((a, b) => b.odds * b.minutes - a.odds * a.minutes),
    };
  });
  const now = cheapest(figures);
  const changes: [string, Partial<Conditions>][] = [
    ...RUST.filter((r) => r !== conditions.rust).map((r): [string, Partial<Conditions>] => [
      `with ${r === "none" ? "no" : r} rust`,
      { rust: r },
    ]),
    [conditions.helper ? "without a helper" : "with a helper", { helper: !conditions.helper }],
    [conditions.crane ? "without a crane or engine bar" : "with a crane or engine bar", { crane: !conditions.crane }],
  ];
  const flips = changes.flatMap(([when, change]): Flip[] => {
    const others = all.map((p) => drawn(p, mishaps, { ...conditions, ...change }, ratePerH, FLIP_DRAWS, seed));
    const best = cheapest(others);
    return best === now ? [] : [{ when, way: (all[best] as Prepared).title }];
  });
  return { ways: ways.sort((a, b) => a.cost - b.cost), flips, conditions, draws, seed };
}
