import type { Analysis } from "./analysis.ts";

/**
 * Of drives that were entered more than once only the first: the same log twice isn’t a second drive.
 * @param of - the analysis of an entry
 */
export function distinct<T>(list: readonly T[], of: (entry: T) => Analysis): T[] {
  const known = new Set<string>();
  return list.filter((entry) => {
    const { durationS, gearSpans, shifts, held } = of(entry);
    const key = JSON.stringify([durationS, gearSpans, shifts, held.groups]);
    const fresh = !known.has(key);
    known.add(key);
    return fresh;
  });
}
