import { hoursOf, type Visit } from "./visits.ts";

/** Of one repair, in a period. */
export interface RepairFigures {
  readonly title: string;
  readonly jobs: number;
  /** of those whose hours are known on both sides */
  readonly timed: number;
  readonly estimatedH: number;
  readonly takenH: number;
  readonly cameBack: number;
  /** proved when it was handed over, and not come back since */
  readonly cured: number;
  readonly rightFirst: number;
}

export interface ShopFigures {
  /** stays that ended in the period with a repair */
  readonly jobs: number;
  /** most frequent first */
  readonly repairs: readonly RepairFigures[];
  readonly cameBack: number;
  /** proved when they were handed over, and not come back since */
  readonly cured: number;
  /** the first repair that was done cured: proved, nothing tried before it, not come back since */
  readonly rightFirst: number;
  readonly timed: number;
  readonly estimatedH: number;
  readonly takenH: number;
}

const repaired = (v: Visit) => v.decision !== undefined && v.state.work.length > 0;
const cured = (v: Visit) => v.state.proof !== undefined && !v.cameBack;
const rightFirst = (v: Visit) => cured(v) && !v.triedBefore;
const sum = (list: readonly number[]) => list.reduce((a, b) => a + b, 0);

function of(visits: readonly Visit[]): Omit<RepairFigures, "title"> {
  const hours = visits.flatMap((v) => hoursOf(v) ?? []);
  return {
    jobs: visits.length,
    timed: hours.length,
    estimatedH: sum(hours.map((h) => h.estimatedH)),
    takenH: sum(hours.map((h) => h.takenH)),
    cameBack: visits.filter((v) => v.cameBack).length,
    cured: visits.filter(cured).length,
    rightFirst: visits.filter(rightFirst).length,
  };
}

/** What became of the stays of a period. Those without a decision or without work count nowhere. */
export function shopFigures(visits: readonly Visit[]): ShopFigures {
  const counted = visits.filter(repaired);
  const byRepair = new Map<string, Visit[]>();
  for (const v of counted) {
    const title = v.decision?.body.title ?? "";
    byRepair.set(title, [...(byRepair.get(title) ?? []), v]);
  }
  return {
    ...of(counted),
    repairs: [...byRepair]
      .map(([title, list]) => ({ title, ...of(list) }))
      .sort((a, b) => b.jobs - a.jobs || a.title.localeCompare(b.title)),
  };
}
