import type { Unit } from "../unit/index.ts";
import { type AskedFor, type DrivenSoFar, notDrivenYet } from "./asked.ts";
import { conditionInWords, metConditions, type SameCondition } from "./companion.ts";
import {
  analyseCoverage,
  type Driven,
  STRETCHES,
  type Stretch,
  type WantedDriving,
  wantedDriving,
} from "./coverage.ts";

/** One thing to do on a stretch of road, for several gears or shifts at once. */
export interface PlannedDriving {
  readonly what: string;
  /** gears, shifts or ranges that are still to be driven; empty with `done` false: it is one thing */
  readonly left: readonly string[];
  readonly done: boolean;
  /** the customer's own words, what was found before the repair, or the usual round */
  readonly why: "complaint" | "found" | "usual";
}

/** A stretch of road and what to drive on it. */
export interface PlannedStretch {
  readonly stretch: Stretch;
  readonly items: readonly PlannedDriving[];
}

/** A drive that has not begun. */
export const NOT_DRIVEN: Driven & DrivenSoFar = {
  groups: [],
  shifts: [],
  held: { groups: [], gears: [] },
  engagements: [],
};

/** Where a condition is met best. */
function stretchOf(where: string | undefined, load: string, temperature: string): Stretch {
  if (temperature === "cold") return "cold";
  if (temperature === "hot") return "hot";
  if (load === "hard" || load === "medium") return "uphill";
  if (load === "coast") return "downhill";
  return where?.includes("-") ? "town" : "level";
}

/**
 * The way to drive: stretch by stretch in the order of a drive, what exercises the whole unit, the complaint and the
 * conditions of earlier findings, and what of it is still to be driven.
 */
export function drivePlan(
  unit: Unit,
  driven: Driven & DrivenSoFar,
  asked: readonly AskedFor[] = [],
  wanted: readonly SameCondition[] = [],
): PlannedStretch[] {
  const items: { stretch: Stretch; item: PlannedDriving }[] = [];
  for (const a of asked) {
    const missing = new Set(notDrivenYet([a], driven));
    for (const what of notDrivenYet([a], NOT_DRIVEN))
      items.push({
        stretch: stretchOf(a.where[0], a.load, a.temperature),
        item: { what, left: [], done: !missing.has(what), why: "complaint" },
      });
  }
  for (const { condition: c, driven: so } of metConditions(wanted, driven)) {
    const what = conditionInWords(c);
    const known = items.findIndex((i) => i.item.what === what);
    const done = so >= c.needed && (items[known]?.item.done ?? true);
    const item: PlannedDriving = { what, left: [], done, why: items[known]?.item.why ?? "found" };
    const stretch = stretchOf(c.where, c.load, c.temperature);
    if (known >= 0) items[known] = { stretch, item };
    else items.push({ stretch, item });
  }
  const fluidTold = driven.groups.every((g) => g.temperature !== "unknown");
  const usual = wantedDriving(unit, analyseCoverage(unit, driven), driven, fluidTold);
  for (const [i, first] of usual.entries()) {
    const isSame = (w: WantedDriving) => w.stretch === first.stretch && w.what === first.what;
    if (usual.findIndex(isSame) !== i) continue;
    const left = usual.filter((w) => isSame(w) && !w.done);
    items.push({
      stretch: first.stretch,
      item: {
        what: first.what,
        left: left.flatMap((w) => (w.where === undefined ? [] : [w.where])),
        done: left.length === 0,
        why: "usual",
      },
    });
  }
  return STRETCHES.flatMap((stretch) => {
    const here = items.filter((i) => i.stretch === stretch).map((i) => i.item);
    return here.length > 0 ? [{ stretch, items: here }] : [];
  });
}
