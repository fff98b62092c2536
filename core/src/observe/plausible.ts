import type { EntryBodies, EntryKind } from "../job/index.ts";
import type { Unit } from "../unit/index.ts";

/** Fluid left in the case of an overfilled unit may bring a little more than it holds when it is hot. */
const MOST_OF_TOTAL = 1.15;

/**
 * What an entry says that cannot be in this unit: volumes beyond it, gears it does not have.
 * @returns sentences by field; empty when all of it can be
 */
export function checkAgainstUnit<K extends EntryKind>(
  kind: K,
  body: EntryBodies[K],
  unit: Unit,
): Record<string, string> {
  const wrong: Record<string, string> = {};
  const { totalL } = unit.fluid;
  const l = (v: number) => `${v.toFixed(1)} l`;
  if (kind === "level") {
    const b = body as EntryBodies["level"];
    for (const [field, v] of [
      ["litresFromFull", b.litresFromFull],
      ["otherSideL", b.otherSideL ?? null],
    ] as const)
      if (v !== null && Math.abs(v) > totalL)
        wrong[field] =
          `${unit.name} holds ${l(totalL)}: ${l(Math.abs(v))} from full cannot be. Was it meant in tenths?`;
  }
  if (kind === "pan") {
    const { drainedL } = body as EntryBodies["pan"];
    if (drainedL !== null && drainedL > totalL * MOST_OF_TOTAL)
      wrong.drainedL = `${unit.name} holds ${l(totalL)}: ${l(drainedL)} cannot have come out of it.`;
  }
  if (kind === "intake") {
    const has = new Set(unit.gears.map((g) => g.name));
    (body as EntryBodies["intake"]).symptoms.forEach((s, i) => {
      const unknown = s.where.flatMap((w) => w.split("-")).filter((g) => !has.has(g));
      if (unknown.length > 0)
        wrong[`symptoms.${i}.where`] = `${unit.name} has no gear ${[...new Set(unknown)].join(", ")}.`;
    });
  }
  return wrong;
}
