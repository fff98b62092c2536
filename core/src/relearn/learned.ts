import { linearRegression } from "simple-statistics";
import type { Adaptation, Unit } from "../unit/index.ts";

/** Way from the new value to the nearer limit that is used up: 0 as new, 1 at the limit, over 1 beyond it. */
export function learnedUsed({ limits: [low, high], newValue }: Adaptation, value: number): number {
  const room = value >= newValue ? high - newValue : newValue - low;
  if (room > 0) return Math.abs(value - newValue) / room;
  return value === newValue ? 0 : Number.POSITIVE_INFINITY;
}

export const atLimit = ({ limits: [low, high] }: Adaptation, value: number): boolean => value <= low || value >= high;

/** Learned values as they were read once. */
export interface LearnedReading {
  readonly at: string;
  readonly odometerKm: number;
  readonly values: Readonly<Record<string, number>>;
}

/** One learned value as a gauge of wear. */
export interface LearnedGauge {
  readonly adaptation: Adaptation;
  /** by reading, oldest first; those that did not hold it are left out */
  readonly points: readonly {
    readonly at: string;
    readonly odometerKm: number;
    readonly value: number;
    readonly used: number;
  }[];
  readonly state: "as-new" | "worn" | "near" | "at-limit";
  /** change over 10,000 km since the values were last set anew; undefined: fewer than two readings at different mileage */
  readonly per10000Km: number | undefined;
  /** from the last reading until the limit at that pace, km; undefined: no pace, or away from the limits */
  readonly kmLeft: number | undefined;
}

/** Of the way to the limit: less is the spread of sound units; more than the second asks for a look. */
const WORN = 0.45;
const NEAR = 0.9;
/** a forecast further than this is no forecast, km */
const FURTHEST_KM = 200_000;
const LEAST_KM = 500;

/**
 * The learned values of a vehicle over its visits. A reset begins a new line: what was before it says nothing of the pace since.
 * @param readings - in any order
 * @param resets - times at which values were set anew
 */
export function learnedGauges(
  unit: Unit,
  readings: readonly LearnedReading[],
  resets: readonly string[] = [],
): LearnedGauge[] {
  const sorted = [...readings].sort((a, b) => a.at.localeCompare(b.at));
  const lastReset = [...resets].sort().at(-1) ?? "";
  return (unit.adaptations ?? []).map((adaptation): LearnedGauge => {
    const points = sorted.flatMap(({ at, odometerKm, values }) => {
      const value = values[adaptation.id];
      return value === undefined ? [] : [{ at, odometerKm, value, used: learnedUsed(adaptation, value) }];
    });
    const last = points.at(-1);
    const since = points.filter((p) => p.at >= lastReset);
    const span = (since.at(-1)?.odometerKm ?? 0) - (since[0]?.odometerKm ?? 0);
    const pace = span >= LEAST_KM ? linearRegression(since.map((p) => [p.odometerKm, p.value])).m : undefined;
    const limit = pace === undefined || pace === 0 ? undefined : adaptation.limits[pace > 0 ? 1 : 0];
    const left = last && limit !== undefined && pace ? (limit - last.value) / pace : undefined;
    const used = last?.used ?? 0;
    return {
      adaptation,
      points,
      state: used >= 1 ? "at-limit" : used >= NEAR ? "near" : used >= WORN ? "worn" : "as-new",
      per10000Km: pace === undefined ? undefined : pace * 10_000,
      kmLeft: left !== undefined && left <= FURTHEST_KM ? Math.max(0, left) : undefined,
    };
  });
}
