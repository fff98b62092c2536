import type { ChosenPart } from "../bench/index.ts";
import type { EstimateLine, JobState } from "../job/index.ts";
import type { Extra } from "../procedure/index.ts";
import { decidedOption } from "./agreed.ts";

/** What an extra is called in the lines of an estimate. */
const OPEN = "While it is open: ";

/** Lines of an estimate with those of the extras that are taken: parts and hands. What was put in before and is not taken any more goes. */
export function withExtras(
  lines: readonly EstimateLine[],
  taken: readonly Pick<Extra, "title" | "parts" | "minutes">[],
  ratePerH: number,
): EstimateLine[] {
  const added = taken.flatMap((e): EstimateLine[] => [
    { kind: "labour", what: `${OPEN}${e.title}`, quantity: Math.round((e.minutes / 60) * 100) / 100, each: ratePerH },
    ...e.parts.map((p): EstimateLine => ({ kind: "part", what: `${OPEN}${p.name}`, quantity: 1, each: p.cost })),
  ]);
  return [...lines.filter((l) => !l.what.startsWith(OPEN)), ...added];
}

/** What a part chosen on the bench is called in the lines of an estimate. */
const BENCH = "Bench: ";

/** Lines of an estimate with the parts that the bench has chosen; what was put in before and is not chosen any more goes. */
export function withBench(
  lines: readonly EstimateLine[],
  chosen: readonly Pick<ChosenPart, "name" | "quantity" | "costEach">[],
): EstimateLine[] {
  const added = chosen.map(
    (c): EstimateLine => ({ kind: "part", what: `${BENCH}${c.name}`, quantity: c.quantity, each: c.costEach }),
  );
  return [...lines.filter((l) => !l.what.startsWith(BENCH)), ...added];
}

export interface Against {
  readonly estimatedH: number;
  /** of the ticked steps, and of what was written as work where no step was timed */
  readonly takenH: number;
  readonly estimatedParts: number;
  readonly usedParts: number;
}

/** Hours and parts of the estimate against what it really took. @returns undefined without an estimate of what was decided, or before anything was timed or used */
export function estimateAgainst(
  state: Pick<JobState, "decision" | "estimates" | "steps" | "work">,
): Against | undefined {
  const decision = state.decision?.body;
  const estimate = decision && state.estimates.find((e) => e.body.optionId === decidedOption(decision))?.body;
  if (!estimate) return undefined;
  const hours = (lines: readonly EstimateLine[]) =>
    lines.filter((l) => l.kind === "labour").reduce((s, l) => s + l.quantity, 0);
  const steps = state.steps.reduce((s, x) => s + (x.body.minutes ?? 0), 0);
  const work = state.work.reduce((s, w) => s + w.body.minutes, 0);
  const usedParts = state.work.flatMap((w) => w.body.parts).reduce((s, p) => s + p.quantity * p.cost, 0);
  // the work is written from the steps: the larger of the two holds the other
  const takenH = Math.max(steps, work) / 60;
  if (takenH === 0 && usedParts === 0) return undefined;
  return {
    estimatedH: hours(estimate.lines),
    takenH,
    estimatedParts: estimate.lines.filter((l) => l.kind !== "labour").reduce((s, l) => s + l.quantity * l.each, 0),
    usedParts,
  };
}
