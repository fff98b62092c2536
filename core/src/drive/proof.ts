/** How much driving it takes to call something gone. */

/** Chance that a fault as frequent as before would have stayed away. */
export const BY_CHANCE = 0.05;
/** Times, of what comes once in a while; of stretches that are driven on and on fewer will do. */
const FEWEST = 5;
export const FEWEST_STRETCHES = 3;

/** How often a fault shows, from some occasions: never quite always (Jeffreys' prior for a share). */
export const shownShare = (bad: number, all: number): number => (bad + 0.5) / (all + 1);

/**
 * Occasions without the fault that it takes until a fault of this frequency would have shown with 95 %: (1 − p)^n ≤ 0.05.
 * @param share - 0…1, how often it showed
 */
export function occasionsNeeded(share: number, fewest = FEWEST): number {
  return Math.max(fewest, Math.ceil(Math.log(BY_CHANCE) / Math.log(1 - Math.min(share, 1 - 1e-9)) - 1e-9));
}

/**
 * Seconds without an event that it takes until one of this rate would have happened with 95 %: exp(−λT) ≤ 0.05.
 * @param events - at least one, in `exposureS` seconds
 */
export const secondsNeeded = (events: number, exposureS: number): number => (-Math.log(BY_CHANCE) * exposureS) / events;
