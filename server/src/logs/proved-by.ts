import type { JobState } from "@gearsense/core/job";

/**
 * The drives of a proof: all before the work, and all since the newest repair that did not cure.
 * @param analysed - drives of the job with their timeline entries, oldest first
 */
export function provedBy<T extends { readonly role: string; readonly entry: { readonly seq: number } }>(
  state: JobState,
  analysed: readonly T[],
): { readonly before: T[]; readonly after: T[] } {
  const since = Math.max(0, ...state.triedSince);
  return {
    before: analysed.filter((l) => l.role === "before"),
    after: analysed.filter((l) => l.role === "after" && l.entry.seq > since),
  };
}
