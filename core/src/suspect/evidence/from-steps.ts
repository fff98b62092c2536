import type { EntryOf, JobState } from "../../job/index.ts";
import { LEAST_COOLER_HALF_MIN_L, numberIn } from "../../procedure/index.ts";
import type { Unit } from "../../unit/index.ts";
import type { Evidence } from "./evidence.ts";

/** Copper's resistance grows by this share of that at 20 °C, 1/K. */
const COPPER_PER_C = 0.00393;
/** Bench and vehicle stand between these while a coil is measured, °C: outside what either explains it is out. */
const MEASURED_AT_C = [10, 70] as const;

const valueAt = (steps: readonly EntryOf<"step">[], step: RegExp, id: string) => {
  const entry = steps.findLast((s) => step.test(s.body.step) && s.body.values.some((v) => v.id === id));
  const value = entry?.body.values.find((v) => v.id === id)?.value;
  return entry && value !== undefined ? { entry, value } : undefined;
};

const LEVELS: Readonly<Record<string, "ok" | "low" | "high">> = { correct: "ok", low: "low", overfilled: "high" };

/** The level that was read as a step of the plan; undefined: it was not, or could not be. */
export function levelAtStep(state: JobState) {
  const read = valueAt(state.steps, /^before-work\/level-/, "level");
  const outcome = read && LEVELS[read.value];
  return outcome && { outcome, value: read.value, entryId: read.entry.id };
}

/**
 * What was measured while working speaks of the faults as a check does: the level that the plan asked for, the coil that came out,
 * the flow of the cooler. What was checked by itself already is not counted twice.
 */
export function fromSteps(unit: Unit, state: JobState): Evidence[] {
  const list: Evidence[] = [];
  const checked = new Set(state.checks.map((c) => c.body.checkId));
  const level = levelAtStep(state);
  if (level && !state.level && !checked.has("level"))
    list.push({
      id: "fluid-level",
      table: "fluid-level",
      subject: {},
      outcome: level.outcome,
      label: `Fluid level before the work: ${level.value}`,
      entryId: level.entryId,
      abnormal: level.outcome !== "ok",
    });
  const coil = valueAt(state.steps, /^solenoids\/compare$/, "old");
  // which one came out is what was decided; of a set nobody knows which value is whose
  const repairs = (state.decision?.body.repairId ?? "").split("+").filter((r) => /^(solenoid|line-solenoid):/.test(r));
  const solenoid = repairs.length === 1 ? unit.solenoids.find((s) => repairs[0]?.endsWith(`:${s.id}`)) : undefined;
  if (coil && solenoid && !checked.has(`resistance:${solenoid.id}`)) {
    const ohm = numberIn(coil.value);
    const [least, most] = solenoid.resistanceOhmAt20C;
    const at = (c: number) => 1 + COPPER_PER_C * (c - 20);
    const out = ohm < least * at(MEASURED_AT_C[0]) || ohm > most * at(MEASURED_AT_C[1]);
    const sure = out || (ohm >= least * at(MEASURED_AT_C[1]) && ohm <= most * at(MEASURED_AT_C[0]));
    if (Number.isFinite(ohm))
      list.push({
        id: `check:resistance:${solenoid.id}`,
        table: "check",
        checkId: `resistance:${solenoid.id}`,
        subject: { component: solenoid.id },
        outcome: out ? "out" : "in-window",
        label: `${solenoid.name}, old one: ${ohm} Ω`,
        entryId: coil.entry.id,
        abnormal: out,
        // between the two the temperature decides, which nobody wrote down
        ...(sure ? {} : { weight: 0.5 }),
      });
  }
  const flow = valueAt(state.steps, /^cooler-flush\/flow$/, "flow");
  const litres = flow ? numberIn(flow.value) : Number.NaN;
  if (flow && Number.isFinite(litres) && !checked.has("cooler-flow")) {
    const low = litres < LEAST_COOLER_HALF_MIN_L;
    list.push({
      id: "check:cooler-flow",
      table: "check",
      checkId: "cooler-flow",
      subject: { component: "unit" },
      outcome: low ? "low" : "good",
      label: `Flow through the cooler: ${litres} l in half a minute`,
      entryId: flow.entry.id,
      abnormal: low,
    });
  }
  return list;
}
