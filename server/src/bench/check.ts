import type { NewEntryInput } from "@gearsense/contract";
import { benchPlaces, causeMissing, curveProblem, otherUnit, placeOf } from "@gearsense/core/bench";
import { type Entry, type EntryBodies, foldJob } from "@gearsense/core/job";
import type { BenchKnowledge } from "@gearsense/core/knowledge";
import type { Unit } from "@gearsense/core/unit";
import { HttpError } from "../http/errors.ts";

const refuse = (field: string, text: string) =>
  new HttpError(422, "implausible", `${text} Nothing was stored.`, { fields: { [`body.${field}`]: text } });

/**
 * What is written of the bench has to fit the unit: a place that it has, readings in the unit of their measure unless somebody
 * says that they stand as they were read, a curve that rises in speed.
 * @throws HttpError 422 naming field and remedy
 */
export function checkBench(unit: Unit, knowledge: BenchKnowledge, body: EntryBodies["bench"]): void {
  const place = placeOf(benchPlaces(unit, knowledge), body.place);
  if (!place) throw refuse("place", `${unit.name} has no place "${body.place}" on the bench: choose one of its own.`);
  for (const [i, v] of body.values.entries()) {
    const measure = place.measures.find((m) => m.id === v.id);
    if (measure && measure.unit !== v.unit)
      throw refuse(`values.${i}.unit`, `${v.name} is measured in ${measure.unit || "no unit"}, not in ${v.unit}.`);
    if (!measure?.expected || v.asRead) continue;
    const expected = measure.expected;
    const odd = v.readings.find((r) => otherUnit(r, v.unit, expected));
    const other = odd === undefined ? undefined : otherUnit(odd, v.unit, expected);
    if (other)
      throw refuse(
        `values.${i}.readings`,
        `${v.name}: ${odd} ${v.unit} looks like ${other.unit}, that would be ${Number(other.value.toPrecision(3))} ${v.unit}. Say which it is.`,
      );
  }
  const problem = body.curve && body.curve.length > 0 ? curveProblem(body.curve) : undefined;
  if (problem) throw refuse("curve", problem);
}

/**
 * A unit in which something failed isn't handed over before somebody has said what broke it, or that it is not known.
 * @throws HttpError 409 `cause-missing`
 */
export function checkCause(entries: readonly Entry[], input: Pick<NewEntryInput, "kind">): void {
  if (input.kind === "handover" && causeMissing(foldJob(entries)))
    throw new HttpError(
      409,
      "cause-missing",
      "Something on the bench failed and nobody has said what broke it. Answer it at “What broke it” on the bench, or name it unknown; then hand over.",
    );
}
