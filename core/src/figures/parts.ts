import { foldJob } from "../job/index.ts";
import type { JobOfShop } from "./visits.ts";

/** One part that was fitted, and what became of it. */
export interface PartFitted {
  readonly name: string;
  readonly quantity: number;
  /** of the work */
  readonly at: string;
  readonly author: string;
  /** what it was fitted for; empty when nothing was decided */
  readonly repair: string;
  /** proved: the trouble was gone; came back: the repair did not last; open: neither is said yet */
  readonly since: "proved" | "came back" | "open";
  /** how far it went until it came back, km; null where it did not, or nobody knows */
  readonly lastedKm: number | null;
}

/** Of fewer letters every part would be one. */
export const LEAST_PART_LETTERS = 3;

/** Whether a name holds every word, in any order and case. */
export const holdsWords = (name: string, find: string): boolean =>
  find
    .toLowerCase()
    .split(/\s+/)
    .every((word) => name.toLowerCase().includes(word));

/**
 * Parts of a job whose name holds every word, newest first. What was taken back was never fitted.
 * @param odometerKm - when the job was opened
 */
export function partsFitted({ entries }: Pick<JobOfShop, "entries">, odometerKm: number, find: string): PartFitted[] {
  const state = foldJob(entries);
  return state.work
    .flatMap((work): PartFitted[] => {
      const back = state.comebacks.find((c) => c.seq > work.seq);
      const until = back?.seq ?? Number.POSITIVE_INFINITY;
      // decision and proof of the stay that the work was done in
      const stay = foldJob(entries.filter((e) => e.seq < until));
      const cameBack = back !== undefined && back.body.repairId !== null;
      const since = cameBack ? "came back" : stay.proof ? "proved" : "open";
      return work.body.parts
        .filter((p) => holdsWords(p.name, find))
        .map((p) => ({
          name: p.name,
          quantity: p.quantity,
          at: work.at,
          author: work.author,
          repair: stay.decision?.body.title ?? "",
          since,
          lastedKm: cameBack ? Math.max(0, back.body.odometerKm - odometerKm) : null,
        }));
    })
    .reverse();
}
