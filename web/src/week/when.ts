import { format, isValid, parseISO } from "date-fns";

/** A time on the shop's clock as it is said: "Tue 1 Dec 16:30". @param at "2026-12-01T16:30" */
export function localWords(at: string): string {
  const d = parseISO(at);
  return isValid(d) ? format(d, at.length > 10 ? "EEE d MMM HH:mm" : "EEE d MMM") : at;
}

/** Odds that a job is ready by a moment, to a twentieth, from the ends of its drawn runs; undefined: there are none. */
export function oddsAt(ends: readonly (string | null)[], at: string): number | undefined {
  if (ends.length === 0 || at === "") return undefined;
  return ends.filter((e) => e !== null && e <= at).length / (ends.length + 1);
}
