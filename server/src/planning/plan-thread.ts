import { type Conditions, compareWays, type WaysCompared } from "@gearsense/core/procedure";
import { Bench, drawnEnds, findSchedule, type Schedule, type Shop, type ShopJob } from "@gearsense/core/schedule";
import type { Unit } from "@gearsense/core/unit";
import { loadLibrary } from "../library/load.ts";

export interface WaysTask {
  readonly unit: Unit;
  readonly repairs: readonly string[];
  readonly conditions: Conditions;
  readonly ratePerH: number;
}

export interface WeekTask {
  readonly shop: Shop;
  readonly jobs: readonly ShopJob[];
}

export interface WeekFound {
  readonly schedule: Schedule;
  /** by job, the ends of drawn runs, sorted */
  readonly ends: readonly Float64Array[];
}

const DRAWS = 200;

let library: ReturnType<typeof loadLibrary> | undefined;

/** Entry of the worker threads: the ways to what was decided. */
export default function ways({ unit, repairs, conditions, ratePerH }: WaysTask): WaysCompared {
  library ??= loadLibrary();
  return compareWays(library.procedures, library.mishaps, unit, repairs, conditions, ratePerH);
}

/** The other entry: a schedule of the shop, and what may become of it. */
export function week({ shop, jobs }: WeekTask): WeekFound {
  const bench = new Bench(shop, jobs);
  const { schedule, policy } = findSchedule(bench);
  return { schedule, ends: drawnEnds(bench, policy, DRAWS, 1) };
}
