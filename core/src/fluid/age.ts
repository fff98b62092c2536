/** Below it fluid ages as slowly as at it; above, twice as fast every 10 °C. */
export const AGE_FROM_C = 90;
const DOUBLES_EVERY_C = 10;

/** How much faster than at 90 °C fluid ages. */
export const ageRate = (fluidC: number): number => 2 ** (Math.max(0, fluidC - AGE_FROM_C) / DOUBLES_EVERY_C);

/** Hours at a temperature. */
export interface HeatSpell {
  readonly fluidC: number;
  readonly hours: number;
}

/**
 * Age of a fluid as hours at 90 °C that would have done the same to it.
 * @throws RangeError for negative hours
 */
export function equivalentHours(history: readonly HeatSpell[]): number {
  return history.reduce((sum, s) => {
    if (!(s.hours >= 0)) throw new RangeError("hours are not negative");
    return sum + s.hours * ageRate(s.fluidC);
  }, 0);
}

/** Share of the hours above a temperature. @returns 0 for no hours at all */
export function shareAbove(history: readonly HeatSpell[], limitC: number): number {
  const all = history.reduce((s, h) => s + h.hours, 0);
  return all > 0 ? history.filter((h) => h.fluidC > limitC).reduce((s, h) => s + h.hours, 0) / all : 0;
}

/** Temperatures that a recorded drive counts time above, °C, and where the time between is counted. */
const COUNTED_AT_C = [80, 115, 127, 140] as const;

/**
 * A recorded drive as spells of heat.
 * @param secondsAbove - above 110, 120 and 135 °C, each within the one before
 */
export function spellsOfDrive(durationS: number, secondsAbove: readonly number[]): HeatSpell[] {
  const above = [durationS, ...secondsAbove.slice(0, 3)];
  return COUNTED_AT_C.map((fluidC, i) => ({
    fluidC,
    hours: Math.max(0, (above[i] ?? 0) - (above[i + 1] ?? 0)) / 3600,
  })).filter((s) => s.hours > 0);
}
