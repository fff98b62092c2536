import type { Unit } from "../unit/index.ts";
/** How a vehicle is used and what was found, for the next change. */
export interface IntervalInput {
  /** base distance of the unit file, km */
  readonly baseKm: number;
  readonly towing: boolean;
  readonly stopAndGo: boolean;
  readonly hills: boolean;
  /** share of the driving time above 110 °C, 0…1; undefined = not known */
  readonly shareAbove110C?: number | undefined;
  readonly fluidMixedOrUnknown: boolean;
  readonly fluidWasBurnt: boolean;
  readonly waterWasFound: boolean;
}

export interface IntervalReason {
  readonly factor: number;
  readonly why: string;
}

export interface Interval {
  readonly km: number;
  readonly reasons: readonly IntervalReason[];
  /** a change that must come before the next regular one, km from now */
  readonly secondChangeKm: number | undefined;
}

const LEAST_SHARE = 0.2;
const ROUND_KM = 1000;
const HOT_STEPS: readonly (readonly [number, number, string])[] = [
  [0.25, 0.5, "a quarter of the time or more above 110 °C"],
  [0.1, 0.7, "a tenth of the time or more above 110 °C"],
  [0.02, 0.85, "now and then above 110 °C"],
];

/**
 * Distance to the next change: base of the unit file times a factor for each hardship, each with its reason, at least a
 * fifth of the base, rounded down to 1000 km. Factors are typical for the trade.
 */
export function nextInterval(input: IntervalInput): Interval {
  const reasons: IntervalReason[] = [];
  const add = (when: boolean, factor: number, why: string) => when && reasons.push({ factor, why });
  add(input.towing, 0.6, "tows");
  add(input.stopAndGo, 0.75, "stop-and-go or taxi work");
  add(input.hills, 0.8, "hills");
  const hot = HOT_STEPS.find(([share]) => (input.shareAbove110C ?? 0) >= share);
  if (hot) add(true, hot[1], hot[2]);
  add(input.fluidMixedOrUnknown, 0.7, "mixed or unknown fluid stays in it");
  add(input.fluidWasBurnt, 0.6, "the fluid before was burnt: the linings have suffered");
  const product = reasons.reduce((p, r) => p * r.factor, 1);
  const km = Math.max(LEAST_SHARE, product) * input.baseKm;
  const second = input.waterWasFound ? 500 : input.fluidWasBurnt || input.fluidMixedOrUnknown ? 2000 : undefined;
  return { km: Math.max(ROUND_KM, Math.floor(km / ROUND_KM) * ROUND_KM), reasons, secondChangeKm: second };
}

export interface FollowUp {
  readonly what: string;
  /** days from today; null = by distance only */
  readonly inDays: number | null;
  /** km from now; null = by date only */
  readonly inKm: number | null;
  readonly why: string;
}

/** What has to be looked at again after a fill, and when. @param kmPerYear - to turn distances into dates; null = unknown */
export function followUps(interval: Interval, kmPerYear: number | null): FollowUp[] {
  const days = (km: number) => (kmPerYear && kmPerYear > 0 ? Math.max(1, Math.round((km / kmPerYear) * 365)) : null);
  const out: FollowUp[] = [
    {
      what: "Level and leaks, cold",
      inDays: 1,
      inKm: null,
      why: "what was trapped has settled, seals have cooled once",
    },
    { what: "Level and leaks", inDays: 30, inKm: null, why: "slow leaks show after a month" },
  ];
  const second = interval.secondChangeKm;
  if (second !== undefined)
    out.push({
      what: "Second fluid change",
      inDays: days(second),
      inKm: second,
      why: "what the first change left in converter and cooler comes out with the second",
    });
  out.push({
    what: "Next fluid change",
    inDays: days(interval.km),
    inKm: interval.km,
    why: interval.reasons.length > 0 ? interval.reasons.map((r) => r.why).join(", ") : "base distance of the unit file",
  });
  return out;
}

/** So many intervals without a change, and fluid that is dark: it has its debris in it, and clutches that have got used to it. */
export const NEVER_CHANGED_INTERVALS = 2;

/**
 * Old fluid that was never changed, by what is known: the trade has two schools of it, and the owner has to agree to one.
 * @param kmSince - since it was changed; null: never, or nobody knows
 */
export function neverChanged(
  unit: Unit,
  odometerKm: number,
  kmSince: number | null,
  told: boolean,
  colour: "fresh" | "amber" | "brown" | "black" | "milky" | undefined,
): boolean {
  if (told || (colour !== "brown" && colour !== "black")) return false;
  return (kmSince ?? odometerKm) > NEVER_CHANGED_INTERVALS * unit.fluid.intervalKm;
}
