import type { Analysis } from "../analysis.ts";
import type { FindingKind } from "../finding.ts";

/** Findings of a shift that fill times and pressures explain. */
const OF_SHIFTS: ReadonlySet<FindingKind> = new Set([
  "flare",
  "slow-shift",
  "quick-shift",
  "late-shift",
  "harsh-shift",
]);

/** Shifts of some drives: names of those outside their limit, and how many were made in all. */
export function shiftsOf(drives: readonly Analysis[]): { readonly outside: readonly string[]; readonly made: number } {
  const outside = drives.flatMap((d) =>
    d.findings.filter((f) => f.severity === "fault" && OF_SHIFTS.has(f.kind)).map((f) => f.subject.shift ?? f.title),
  );
  const made = drives.reduce((n, d) => n + d.shifts.filter((s) => s.completed).length, 0);
  return { outside: [...new Set(outside)], made };
}
