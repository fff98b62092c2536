import { componentName, elementPressuresKpa, elementsIn, PAPER_FRICTION, type Unit } from "../../unit/index.ts";
import type { AnalysedLog } from "../analysis.ts";
import type { DriveEvidence } from "../measure.ts";
import { FLUID_STEP_C } from "./element-loads.ts";

/** A load at which the share of each element is reckoned, N·m. */
const LOAD_NM = 100;
/** Elements within this of the one that fits best fit as well, or nearly. */
const FITS = 1.05;
const NEARLY = 1.6;
/** Other gears held no more than this of what slips: nothing holds; or so much that only one place does not. */
const NOT_MORE = 1.1;
const FAR_MORE = 1.6;

const SAYS = {
  fits: (name: string) => `Slip fits the load on ${name}`,
  nearly: (name: string) => `Slip nearly fits the load on ${name}`,
  misfits: (name: string) => `${name} held more elsewhere than it would slip at`,
} as const;

const SCOPE_SAYS = {
  everywhere: "No gear held more torque than the one that slips",
  between: "Other gears held a little more torque than the one that slips",
  "one-place": "Other gears held far more than what slips",
} as const;

/** What all logs of a vehicle say of loads: least slipped at and most held, N·m for every kPa of line pressure, by gear. */
function loadsOf(unit: Unit, logs: readonly AnalysedLog[]) {
  const slipped = new Map<string, number>();
  const held = new Map<string, number>();
  let from: AnalysedLog | undefined;
  for (const log of logs)
    for (const g of log.analysis.held.gears) {
      if ((g.lowestSlipNmPerKpa ?? 0) > 0 && g.slipping.length > 0) {
        const load = g.lowestSlipNmPerKpa as number;
        slipped.set(g.gear, Math.min(slipped.get(g.gear) ?? Number.POSITIVE_INFINITY, load));
        from ??= log;
      }
      if (g.cleanNmPerKpa !== undefined) held.set(g.gear, Math.max(held.get(g.gear) ?? 0, g.cleanNmPerKpa));
    }
  const gears = [...new Set([...slipped.keys(), ...held.keys()])];
  const needs = new Map(gears.map((g) => [g, elementPressuresKpa(unit, g, LOAD_NM, PAPER_FRICTION)]));
  /** Part of the line pressure that each element of a gear needs at a load. */
  const asked = (gear: string, nmPerKpa: number): ReadonlyMap<string, number> =>
    new Map([...(needs.get(gear) ?? [])].map(([id, kpa]) => [id, (kpa * nmPerKpa) / LOAD_NM]));
  return { slipped, held, from, asked };
}

/** Who held no more than this of what it slips at does not contradict itself, however little it held. */
const NO_CONTRADICTION = 0.8;
/** Fluid that is colder than where it slips by more than this says nothing of it: a leak holds cold, °C. */
const COLDER_BY_C = 10;

/**
 * Which of the elements that carry every slipping gear slips? The one that slips does so at the least part of the line
 * pressure that it is asked for, and holds no more in any gear while the fluid is as hot: (most held) / (least slipped
 * at) is smallest for it.
 * @returns one piece for each such element; empty with fewer than two, without line pressure, or without pistons in the unit file
 * A pack carries T = z·μ·(p·A − F)·r: what it is asked for comes from its share of the input torque in the gear.
 */
export function slipLoads(unit: Unit, logs: readonly AnalysedLog[]): DriveEvidence[] {
  const { slipped, from } = loadsOf(unit, logs);
  if (!from || unit.kind !== "planetary") return [];
  const { logId, entryId } = from;
  const candidates = unit.elements.flatMap(({ id }) => {
    if (![...slipped.keys()].every((g) => elementsIn(unit, g).includes(id))) return [];
    const own = logs.flatMap((l) => l.analysis.held.elements.filter((e) => e.element === id));
    const slips = own.flatMap((e) => e.slipped);
    const coldestC = Math.min(...slips.map((s) => s.fluidC ?? Number.NEGATIVE_INFINITY));
    const holds = own
      .flatMap((e) => e.held)
      .filter((h) => (h.fluidC ?? Number.POSITIVE_INFINITY) + FLUID_STEP_C > coldestC - COLDER_BY_C);
    const ratio = Math.max(0, ...holds.map((h) => h.part)) / Math.min(...slips.map((s) => s.part));
    return slips.length > 0 ? [{ id, ratio: Math.max(NO_CONTRADICTION, ratio) }] : [];
  });
  if (candidates.length < 2) return [];
  const best = Math.min(...candidates.map((c) => c.ratio));
  return candidates.map(({ id, ratio }): DriveEvidence => {
    const outcome = ratio <= FITS * best ? "fits" : ratio <= NEARLY * best ? "nearly" : "misfits";
    return {
      id: `${logId}:slip-load:${id}`,
      table: "slip-load",
      subject: { component: id },
      outcome,
      label: SAYS[outcome](componentName(unit, id)),
      entryId,
      abnormal: false,
    };
  });
}

/**
 * Does one place not hold, or does nothing? The hardest-worked element of every gear that does not slip against that of the
 * gears that do: low pressure for all lets no gear hold more than what slips elsewhere.
 * @returns undefined without slip, without other gears, without line pressure, or without pistons in the unit file
 */
export function slipScope(unit: Unit, logs: readonly AnalysedLog[]): DriveEvidence | undefined {
  const { slipped, held, from, asked } = loadsOf(unit, logs);
  const others = [...held].filter(([g]) => !slipped.has(g));
  const hardest = ([gear, load]: readonly [string, number]) => Math.max(...asked(gear, load).values());
  const ratio = Math.max(0, ...others.map(hardest)) / Math.min(...[...slipped].map(hardest));
  if (!from || others.length === 0 || !Number.isFinite(ratio)) return undefined;
  const outcome = ratio <= NOT_MORE ? "everywhere" : ratio <= FAR_MORE ? "between" : "one-place";
  return {
    id: `${from.logId}:slip-scope:all`,
    table: "slip-scope",
    subject: {},
    outcome,
    label: SCOPE_SAYS[outcome],
    entryId: from.entryId,
    abnormal: false,
  };
}
