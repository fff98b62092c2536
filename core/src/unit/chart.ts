import { elementsIn, type Unit } from "./unit.ts";

export type GearOutcome = "good" | "bad" | "not-exercised";

export interface ChartReading {
  readonly cleared: readonly string[];
  readonly accused: readonly string[];
  /** smallest sets of elements that cover all bad gears and touch no good one; empty when none does */
  readonly explanations: readonly (readonly string[])[];
}

/**
 * Reads the application chart for a fault: good gears clear every element they use; the suspects cover all bad gears
 * and no good one. When no single element does, pairs are tried; when no pair does, something upstream of the
 * elements (pressure, fluid, a sensor) explains it better and `explanations` is empty.
 * @param outcomes - by gear name
 * Source: handbook, reading the chart for a fault.
 */
export function readChart(unit: Unit, outcomes: Readonly<Record<string, GearOutcome>>): ChartReading {
  const good = Object.keys(outcomes).filter((g) => outcomes[g] === "good");
  const bad = Object.keys(outcomes).filter((g) => outcomes[g] === "bad");
  const cleared = new Set(good.flatMap((g) => elementsIn(unit, g)));
  const accused = new Set(bad.flatMap((g) => elementsIn(unit, g)));
  const candidates = unit.elements.map((e) => e.id).filter((id) => accused.has(id) && !cleared.has(id));
  const covers = (set: readonly string[]) => bad.every((g) => elementsIn(unit, g).some((e) => set.includes(e)));

  let explanations: string[][] = [];
  if (bad.length > 0) {
    explanations = candidates.map((c) => [c]).filter(covers);
    if (explanations.length === 0) {
      for (let i = 0; i < candidates.length; i++) {
        for (let j = i + 1; j < candidates.length; j++) {
          const pair = [candidates[i] as string, candidates[j] as string];
          if (covers(pair)) explanations.push(pair);
        }
      }
    }
  }
  return {
    cleared: unit.elements.map((e) => e.id).filter((id) => cleared.has(id)),
    accused: unit.elements.map((e) => e.id).filter((id) => accused.has(id)),
    explanations,
  };
}
