import type { Wish } from "../job/index.ts";
import type { FaultGroup } from "../knowledge/index.ts";
import { type Evidence, repairsDone } from "../suspect/index.ts";

/**
 * What it costs to put a repair off, by what is wrong: the repair grows by this factor, and so often the vehicle is fetched
 * from the road. Estimates of the trade, not counted: friction and gears spread their debris, fluid that is lost takes the
 * clutches with it, a wire stays a wire.
 */
export const LEAVING: Readonly<Record<FaultGroup, { readonly grows: number; readonly stranded: number }>> = {
  element: { grows: 1.4, stranded: 0.4 },
  hydraulics: { grows: 1.3, stranded: 0.3 },
  converter: { grows: 1.35, stranded: 0.2 },
  "dual clutch": { grows: 1.35, stranded: 0.4 },
  fluid: { grows: 1.6, stranded: 0.4 },
  electrics: { grows: 1.1, stranded: 0.3 },
  controller: { grows: 1.1, stranded: 0.3 },
  mechanics: { grows: 1.5, stranded: 0.4 },
  elsewhere: { grows: 1.15, stranded: 0.1 },
};

/** Tables and outcomes that a vehicle is not sent away with, and how that is said. */
const BARS: readonly { readonly says: string; readonly of: (e: Evidence) => boolean }[] = [
  { says: "the fluid level is low", of: (e) => e.table === "fluid-level" && e.outcome === "low" },
  { says: "the fluid level is low", of: (e) => e.table === "check" && e.checkId === "level" && e.outcome === "low" },
  {
    says: "it leaks",
    of: (e) =>
      e.table === "told-leak" ||
      (e.table === "observation" && e.checkId === "leaks" && e.abnormal) ||
      (e.table === "check" && e.checkId === "leak-look" && e.abnormal) ||
      (e.table === "check" && e.checkId === "level-next-day" && e.outcome === "lower"),
  },
  {
    says: "a gear is lost",
    of: (e) =>
      (e.table === "gear" && (e.outcome === "gone" || e.outcome === "blocked")) ||
      (e.table === "felt-gear" && e.outcome === "nothing") ||
      (e.table === "gear-reached" && e.outcome === "missing") ||
      (e.table === "symptom" && e.outcome === "no-drive"),
  },
  {
    says: "it goes into limp mode",
    of: (e) => (e.table === "limp" && e.outcome === "limp") || (e.table === "symptom" && e.outcome === "limp"),
  },
  { says: "park does not hold it", of: (e) => e.table === "felt-park" && e.outcome === "rolls" },
];

/** Why the vehicle is not to be left as it is. Only what was seen since the last repair counts. @returns empty when nothing forbids it */
export function whyNotLeave(evidence: readonly Evidence[]): string[] {
  const last = Math.max(0, ...evidence.map(repairsDone));
  const now = evidence.filter((e) => repairsDone(e) === last);
  return [...new Set(BARS.filter((b) => now.some(b.of)).map((b) => b.says))];
}

/** What the owner's wish is worth: how long the repair has to last, and a day that the vehicle stands, money. */
export interface Horizon {
  readonly keepYears: number;
  readonly downtimeADay: number;
}

const WISH_YEARS: Readonly<Record<Wish, number>> = {
  "keep-long": 6,
  "cheap-and-safe": 2,
  quick: 2,
  "sell-soon": 0.5,
  "only-know": 0,
};
const QUICK_A_DAY = 80;

/** From what was asked at intake; what was not said is taken from the wish. */
export const horizonOf = (
  wish: Wish | undefined,
  keepYears: number | null | undefined,
  downtimeADay: number | null | undefined,
): Horizon => ({
  keepYears: keepYears ?? (wish ? WISH_YEARS[wish] : 0),
  downtimeADay: downtimeADay ?? (wish === "quick" ? QUICK_A_DAY : 0),
});

/** New parts that fail again in a year, and how much more those do that are worth less: of a used unit nobody knows the inside. */
export const failsAYear = (worth: number): number => 0.02 + 0.5 * Math.max(0, 1 - worth);
