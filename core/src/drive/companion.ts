import type { Unit } from "../unit/index.ts";
import type { Analysis } from "./analysis.ts";
import type { DrivenSoFar } from "./asked.ts";
import { type LoadBand, loadBand, type TemperatureBand, temperatureBand } from "./signal/conditions.ts";

/** A condition in which something was found before a repair: the proof drive has to meet it again. */
export interface SameCondition {
  /** gear "4" or shift "2-3" */
  readonly where: string;
  readonly load: LoadBand;
  readonly temperature: TemperatureBand;
  /** s of a gear, times of a shift */
  readonly needed: number;
}

/** One of them, as far as it was driven. */
export interface MetCondition {
  readonly condition: SameCondition;
  readonly driven: number;
}

const GEAR_S = 6;
const SHIFT_TIMES = 5;
const middle = (span: readonly [number, number] | undefined) => span && (span[0] + span[1]) / 2;

/** Conditions of everything that was found in the drives before a repair, each once, faults first. */
export function sameConditions(unit: Unit, before: readonly Analysis[]): SameCondition[] {
  const all = new Map<string, SameCondition>();
  const findings = before.flatMap((a) => a.findings);
  for (const f of [...findings].sort((a, b) => Number(b.severity === "fault") - Number(a.severity === "fault"))) {
    const where = f.subject.shift ?? f.subject.gear;
    if (where === undefined) continue;
    const torque = middle(f.conditions.torqueNm);
    const condition: SameCondition = {
      where,
      load: loadBand(torque === undefined ? undefined : torque / unit.maxInputTorqueNm),
      temperature: temperatureBand(middle(f.conditions.fluidC)),
      needed: where.includes("-") ? SHIFT_TIMES : GEAR_S,
    };
    const key = `${where}|${condition.load}|${condition.temperature}`;
    if (!all.has(key)) all.set(key, condition);
  }
  return [...all.values()];
}

/** How much of each was driven. What is not known of a condition is met by anything. */
export function metConditions(conditions: readonly SameCondition[], { groups, shifts }: DrivenSoFar): MetCondition[] {
  return conditions.map((condition) => {
    const { where, load, temperature } = condition;
    const fits = (l: string, t: string) =>
      (load === "unknown" || l === load) && (temperature === "unknown" || t === temperature);
    const driven = where.includes("-")
      ? shifts.filter((s) => s.name === where && fits(loadBand(s.load), temperatureBand(s.fluidC))).length
      : groups.filter((g) => g.gear === where && fits(g.load, g.temperature)).reduce((sum, g) => sum + g.seconds, 0);
    return { condition, driven };
  });
}

/** "gear 4, hard load, warm" */
export function conditionInWords({ where, load, temperature }: SameCondition): string {
  return [
    `${where.includes("-") ? "shift" : "gear"} ${where}`,
    load === "unknown" ? "" : load === "coast" ? "coasting" : `${load} load`,
    temperature === "unknown" ? "" : temperature,
  ]
    .filter(Boolean)
    .join(", ");
}

export const allMet = (met: readonly MetCondition[]): boolean => met.every((m) => m.driven >= m.condition.needed);

/** Where the unit file is silent, s of hot driving before fluid or an additive is judged. */
const HOT_DRIVING_S = 15 * 60;

/** How long hot was driven, of what it takes before a change of fluid or an additive is judged. */
export function hotDriving(
  unit: Unit,
  drives: readonly Analysis[],
): { readonly neededS: number; readonly drivenS: number } {
  const minutes = unit.fluid.hotDrivingMin;
  return {
    neededS: minutes === undefined ? HOT_DRIVING_S : minutes * 60,
    drivenS: drives.reduce((s, d) => s + d.coverage.hotSeconds, 0),
  };
}
