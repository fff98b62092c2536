import { gearCode, type Unit, type UsualTimes, WARM_C } from "../../unit/index.ts";
import { median } from "../signal/stats.ts";
import type { Shift } from "./shifts.ts";

export type FluidBand = "cold" | "warm";
export const fluidBand = (fluidC: number): FluidBand => (fluidC < WARM_C ? "cold" : "warm");
export const bandTimeS = (t: UsualTimes | undefined, band: FluidBand): number | undefined =>
  band === "cold" ? t?.coldS : t?.warmS;

/** A time beside that of sound units, s. */
export interface AgainstUsual {
  readonly usualS: number;
  /** more than usual; negative: less */
  readonly excessS: number;
  /** the unit's usual times, or those of the drive's other shifts */
  readonly from: "unit file" | "this drive";
}

export interface BesideUsual {
  readonly delay?: AgainstUsual | undefined;
  readonly inertia?: AgainstUsual | undefined;
}

type Times = Pick<Shift, "delayS" | "inertiaS">;

/** Shifts whose times may be compared: upwards, under power, measured. */
export const isTimed = (s: Shift): boolean =>
  s.underPower && s.measured && s.completed && gearCode(s.to) > gearCode(s.from);

/**
 * A power upshift against what is usual for the unit at its temperature.
 * @returns only what was measured and the unit file states; nothing for other shifts
 */
export function againstUsual(unit: Unit, s: Shift): BesideUsual {
  const usual = unit.usual?.shifts?.[s.name];
  if (!usual || !isTimed(s) || s.fluidC === undefined) return {};
  const band = fluidBand(s.fluidC);
  return beside(s, { delayS: usualDelayS(unit, s.name, band), inertiaS: bandTimeS(usual.inertia, band) }, "unit file");
}

/** A shift that answers as the unit's others do is not late, however soon it answered in other vehicles, s. */
const SOONER_S = 0.07;

function usualDelayS(unit: Unit, name: string, band: FluidBand): number | undefined {
  const shifts = unit.usual?.shifts ?? {};
  const own = bandTimeS(shifts[name]?.delay, band);
  if (own === undefined) return undefined;
  const middle = median(Object.values(shifts).flatMap((t) => bandTimeS(t.delay, band) ?? []));
  return own < middle - SOONER_S ? middle : own;
}

function beside(s: Times, usual: Times, from: AgainstUsual["from"]): BesideUsual {
  const one = (isS: number | undefined, usualS: number | undefined): AgainstUsual | undefined =>
    isS === undefined || usualS === undefined ? undefined : { usualS, excessS: isS - usualS, from };
  return { delay: one(s.delayS, usual.delayS), inertia: one(s.inertiaS, usual.inertiaS) };
}

/** One shift tells little, and so do the times of one other kind of shift. */
const LEAST_SHIFTS = 2;
const LEAST_OTHERS = 2;

const gearsOf = (shift: string): string[] => shift.split("-");

/**
 * Each power upshift against what is usual: as the unit file states it; where it is silent, against the other shifts of the
 * drive in fluid as warm. Sound shifts of one vehicle answer within a few hundredths of a second of each other, whatever its
 * controller is like (median of the medians by kind of shift, which one or two faulty kinds do not move). Inertia phases
 * grow with the gear: as long as a neighbour's, the shift before or after it, is usual as well.
 * @returns empty for other shifts, and where too little was driven to go by
 */
export function besideUsual(unit: Unit, shifts: readonly Shift[]): (s: Shift) => BesideUsual {
  const timed = shifts.filter(isTimed);
  const bandOf = (s: Shift) => (s.fluidC === undefined ? undefined : fluidBand(s.fluidC));
  const known = new Map<string, Times>();
  const others = (name: string, band: FluidBand | undefined): Times => {
    const key = `${name}|${band}`;
    let found = known.get(key);
    if (!found) {
      const names = [...new Set(timed.map((s) => s.name))].filter((n) => n !== name);
      const middle = (of: (s: Shift) => number | undefined) => {
        const medians = names.flatMap((n) => {
          const own = timed.filter((s) => s.name === n && bandOf(s) === band).flatMap((s) => of(s) ?? []);
          return own.length < LEAST_SHIFTS ? [] : [{ name: n, value: median(own) }];
        });
        return medians.length < LEAST_OTHERS ? undefined : medians;
      };
      const [delays, inertias] = [middle((s) => s.delayS), middle((s) => s.inertiaS)];
      const next = inertias?.filter((m) => gearsOf(m.name).some((g) => gearsOf(name).includes(g))) ?? [];
      found = {
        delayS: delays && median(delays.map((m) => m.value)),
        inertiaS: inertias && Math.max(median(inertias.map((m) => m.value)), ...next.map((m) => m.value)),
      };
      known.set(key, found);
    }
    return found;
  };
  return (s) => {
    if (!isTimed(s)) return {};
    if (unit.usual?.shifts?.[s.name]) return againstUsual(unit, s);
    return beside(s, others(s.name, bandOf(s)), "this drive");
  };
}
