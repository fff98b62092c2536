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
