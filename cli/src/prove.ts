import { type Comparison, compareDrives, type FindingComparison } from "@gearsense/core/drive";
import { formatQuantity } from "@gearsense/core/quantity";
import { analyzeFile } from "./analyze.ts";

/** See docs/formats.md. */
export interface ProofOutput {
  readonly format: "gearsense-proof";
  readonly version: 1;
  readonly unit: string;
  readonly before: readonly string[];
  readonly after: readonly string[];
  readonly findings: readonly (Omit<FindingComparison, "limit" | "drive"> & {
    readonly severity: "fault" | "notice";
    readonly limit: number | null;
    readonly drive: string | null;
  })[];
  readonly fresh: Comparison["fresh"];
  readonly sentence: string;
}

/**
 * Compares drives before a repair with drives after it, as the application does.
 * @param before - files of one vehicle, at least one
 * @param after - the same
 * @throws UsageError, InputError naming the file
 */
export function proveFiles(before: readonly string[], after: readonly string[], unit: string): ProofOutput {
  const analysed = (files: readonly string[]) => files.map((file) => analyzeFile(file, unit).analysis);
  const first = analysed(before);
  const comparison = compareDrives(first, analysed(after));
  const faults = new Set(first.flatMap((a) => a.findings.filter((f) => f.severity === "fault").map((f) => f.id)));
  return {
    format: "gearsense-proof",
    version: 1,
    unit,
    before,
    after,
    findings: comparison.findings.map((f) => ({
      ...f,
      severity: faults.has(f.findingId) ? "fault" : "notice",
      limit: f.limit ?? null,
      drive: f.drive ?? null,
    })),
    fresh: comparison.fresh,
    sentence: comparison.sentence,
  };
}

/** The proof as lines for a person. */
export function describeProof(proof: ProofOutput): string {
  const lines = [`${proof.before.join(", ")} against ${proof.after.join(", ")}`];
  for (const f of proof.findings) {
    const figure = (value: number | undefined) =>
      value === undefined ? "not driven" : formatQuantity(value, f.quantity, "metric").text;
    lines.push(`- ${f.title} [${f.severity}]: ${f.verdict}; ${f.reason}`);
    for (const g of f.groups) lines.push(`    ${f.measure}, ${g.label}: ${figure(g.before)} then ${figure(g.after)}`);
    if (f.drive !== null) lines.push(`    ${f.drive}.`);
  }
  for (const f of proof.fresh) lines.push(`- new: ${f.title} [${f.severity}]`);
  lines.push(proof.sentence);
  return lines.join("\n");
}
