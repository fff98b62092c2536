import { type AgainstUsual, againstUsual, fluidBand, type Shift } from "@gearsense/core/drive";
import type { Quantity } from "@gearsense/core/quantity";
import type { Unit } from "@gearsense/core/unit";

interface Column {
  readonly id: string;
  readonly label: string;
  readonly of: (s: Shift) => number | string | undefined;
  readonly quantity?: Quantity;
  readonly decimals?: number;
}

export const SHIFT_COLUMNS: readonly Column[] = [
  { id: "name", label: "Shift", of: (s) => s.name },
  { id: "at", label: "At", of: (s) => s.commandS, quantity: "duration", decimals: 1 },
  { id: "delay", label: "Delay", of: (s) => s.delayS, quantity: "duration" },
  { id: "inertia", label: "Inertia phase", of: (s) => s.inertiaS, quantity: "duration" },
  { id: "flare", label: "Flare", of: (s) => s.flareRpm, quantity: "speed-rpm" },
  { id: "under", label: "Undershoot", of: (s) => s.undershootRpm, quantity: "speed-rpm" },
  { id: "jolt", label: "Jolt", of: (s) => s.joltRpmPerS, quantity: "speed-rate" },
  { id: "brakes", label: "Slows by", of: (s) => s.brakesRpmPerS, quantity: "speed-rate" },
  { id: "torque", label: "Torque", of: (s) => s.torqueNm, quantity: "torque" },
  { id: "ready", label: "Ready before", of: (s) => s.preselectedS, quantity: "duration", decimals: 1 },
  { id: "pressure", label: "Line", of: (s) => s.linePressureKpa, quantity: "pressure" },
  { id: "fluid", label: "Fluid", of: (s) => s.fluidC, quantity: "temperature" },
];

/** Which measures of a shift are over the limits of the unit file. */
export function overLimit(s: Shift, unit: Unit): ReadonlySet<string> {
  const limit = unit.limits.shifts?.[s.name] ?? unit.limits.shiftDefault;
  const over = new Set<string>();
  if (!s.completed) over.add("name");
  if (limit && (s.delayS ?? 0) > limit.delayS) over.add("delay");
  if (limit && (s.inertiaS ?? 0) > limit.inertiaS[1]) over.add("inertia");
  if (limit && s.underPower && (s.flareRpm ?? 0) > limit.flareRpm) over.add("flare");
  return over;
}

/** The shifts of a name, or of all; or only those over a limit. */
export function shownShifts(
  shifts: readonly Shift[],
  unit: Unit,
  { name, onlyOver }: { readonly name: string; readonly onlyOver: boolean },
): Shift[] {
  return shifts.filter((s) => (name === "" || s.name === name) && (!onlyOver || overLimit(s, unit).size > 0));
}

/** Beside sound units of its kind: nobody sees a tenth of a second in a column of figures. */
export function usualWords(s: Shift, unit: Unit, show: (seconds: number) => string): string[] {
  const { delay, inertia } = againstUsual(unit, s);
  const words = (what: string, more: string, less: string, t: AgainstUsual | undefined) => {
    if (!t) return [];
    const by = show(Math.abs(t.excessS));
    const differs = by === show(0) ? "as usual" : `${by} ${t.excessS > 0 ? more : less} than usual`;
    return [`${what} ${differs} (${show(t.usualS)} ${fluidBand(s.fluidC ?? Number.NaN)})`];
  };
  return [...words("Answers", "later", "earlier", delay), ...words("Takes", "longer", "less", inertia)];
}
