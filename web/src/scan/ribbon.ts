import type { Analysis } from "@gearsense/core/drive";
import type { StripData } from "./worker/messages.ts";

/** Spans of gears, with whether a finding lies within. Both lists go forward in time. */
export function hitSpans(analysis: Analysis | undefined) {
  if (!analysis) return [];
  const faults = analysis.findings
    .filter((f) => f.kind !== "limp")
    .flatMap((f) => f.occurrences)
    .sort((a, b) => a.startS - b.startS);
  // of those that began by then, the latest end: one look a span, however many there are
  let begun = 0;
  let latestEndS = -Infinity;
  return analysis.gearSpans.map((s) => {
    for (let f = faults[begun]; f && f.startS < s.endS; f = faults[++begun]) latestEndS = Math.max(latestEndS, f.endS);
    return { ...s, hit: latestEndS > s.startS };
  });
}

/** Moments at which the mark channel steps up. */
export function marksIn(strips: readonly Pick<StripData, "id" | "pyramid">[]): number[] {
  const mark = strips.find((s) => s.id === "mark");
  if (!mark) return [];
  const { timeS, values } = mark.pyramid;
  const out: number[] = [];
  for (let i = 1; i < values.length; i++)
    if ((values[i] as number) > (values[i - 1] as number)) out.push(timeS[i] as number);
  return out;
}
