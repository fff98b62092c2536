import { type FillState, startsWithL } from "../fluid/index.ts";
import type { Unit } from "../unit/index.ts";
import { numberIn } from "./progress.ts";

/** The step that starts the engine on a fresh fill. */
export const FIRST_START = "fill/start";

/**
 * Why an engine must not be started on a fresh fill; undefined: enough stands in the pan. The litres are those of the fill, or what
 * was written down at the first fill; where neither was, nobody knows, and the tick of the hold alone stands for it.
 * @param values - of the step at which it was filled first: "filled", l
 */
export function emptyStart(
  unit: Unit,
  fill: Pick<FillState, "inPanL"> | undefined,
  values: readonly {
    readonly step: string;
    readonly values: readonly { readonly id: string; readonly value: string }[];
  }[],
): string | undefined {
  const written = values.findLast((s) => /^fill\/first-/.test(s.step))?.values.find((v) => v.id === "filled")?.value;
  const litres = fill?.inPanL ?? (written === undefined ? Number.NaN : numberIn(written));
  return litres < startsWithL(unit) - UNSURE_L
    ? `only ${litres.toFixed(1)} l are in the pan, and ${startsWithL(unit).toFixed(1)} l are needed: the pump would run in air`
    : undefined;
}
const UNSURE_L = 0.1;
