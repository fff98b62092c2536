import type { Unit } from "../unit/index.ts";

/** Thermal expansion of transmission fluid, share of the volume at 20 °C per °C. */
export const EXPANSION_PER_C = 0.00075;
const BASE_C = 20;
/** That coefficient is known to about a tenth. */
const EXPANSION_UNSURE = 0.1;

/**
 * The volume of some fluid at another temperature: V(T) = V₂₀·(1 + β·(T − 20 °C)), so that there and back gives the same.
 * @returns l
 * ΔV = V·β·ΔT.
 */
export function expandedL(volumeL: number, fromC: number, toC: number, betaPerC = EXPANSION_PER_C): number {
  return (volumeL * (1 + betaPerC * (toC - BASE_C))) / (1 + betaPerC * (fromC - BASE_C));
}

/** One reading of a level as it was made. Absent fields: nobody said. */
export interface LevelReading {
  readonly fluidC: number | null;
  /** how far from full it read, − is low; of a stick with two sides the one that was read first */
  readonly litresFromFull: number | null;
  readonly engineRunning: boolean;
  /** the other side of the stick */
  readonly otherSideL?: number | null | undefined;
  readonly rangesCycled?: boolean | undefined;
  readonly minutesSinceFilling?: number | null | undefined;
  readonly onLevelGround?: boolean | undefined;
}

export type LevelMistakeId = "engine-off" | "engine-on" | "outside-window" | "wet-tube" | "ranges" | "ground" | "sides";

export interface LevelMistake {
  readonly id: LevelMistakeId;
  /** true: the reading says nothing of the level; false: it says less */
  readonly spoils: boolean;
  readonly text: string;
}

const TUBE_DRIES_MIN = 10;
const SIDES_APART_L = 0.15;

/** Is a unit read with its engine running? By its procedure: all but a sight hole, which is read at rest. */
export const readRunning = (unit: Unit): boolean => unit.fluid.level.method !== "sight-hole";

/** What was done wrong in reading a level, worst first. @returns empty when nothing is known against it */
export function levelMistakes(unit: Unit, r: LevelReading): LevelMistake[] {
  const { level } = unit.fluid;
  const out: LevelMistake[] = [];
  const add = (id: LevelMistakeId, spoils: boolean, text: string) => out.push({ id, spoils, text });
  if (readRunning(unit) && !r.engineRunning)
    add(
      "engine-off",
      true,
      "Read with the engine off: converter and cooler run back into the pan, and it shows too much. Start the engine and read again.",
    );
  if (!readRunning(unit) && r.engineRunning)
    add(
      "engine-on",
      true,
      "Read with the engine running: turning gears throw the oil about. Stop the engine, wait, and read again.",
    );
  if (
    level.method === "dipstick" &&
    r.minutesSinceFilling !== null &&
    r.minutesSinceFilling !== undefined &&
    r.minutesSinceFilling < TUBE_DRIES_MIN
  )
    add(
      "wet-tube",
      true,
      `The tube is wet for about ${TUBE_DRIES_MIN} min after filling and wets the stick: it shows too much. Wait, wipe, read again.`,
    );
  if (r.fluidC !== null && (r.fluidC < level.windowC[0] || r.fluidC > level.windowC[1]))
    add(
      "outside-window",
      false,
      "The temperature is outside the window of the unit file: the reading is converted and less sure. Best read it again in the window.",
    );
  if (readRunning(unit) && r.rangesCycled === false)
    add(
      "ranges",
      false,
      "The ranges were not cycled: the circuits may not be full, and it shows too much by up to 0.3 l.",
    );
  if (r.onLevelGround === false)
    add("ground", false, "The vehicle did not stand level: a slope of 2° may shift the reading by 0.3 l.");
  if (
    r.otherSideL !== null &&
    r.otherSideL !== undefined &&
    r.litresFromFull !== null &&
    Math.abs(r.otherSideL - r.litresFromFull) > SIDES_APART_L
  )
    add(
      "sides",
      false,
      "The two sides of the stick differ: the lower counts, and the stick was not wiped or the tube is wet.",
    );
  return out.sort((a, b) => Number(b.spoils) - Number(a.spoils));
}

/** How finely each way of reading tells, l (one standard deviation). Source: typical for the trade. */
const READS_TO_L = { overflow: 0.06, "sight-hole": 0.06, dipstick: 0.1 } as const;
const THERMOMETER_C = 3;
/** what careless reading adds, l */
const CARELESS_L: Partial<Record<LevelMistakeId, number>> = { ranges: 0.15, ground: 0.15, sides: 0.1 };

export interface LevelJudgement {
  /** at the reference temperature of the unit file, l from full; − is low */
  readonly atReferenceL: number;
  /** two standard deviations, l */
  readonly plusMinusL: number;
  readonly referenceC: number;
  /** undecided: the limits of the unit file lie within the uncertainty */
  readonly state: "low" | "ok" | "high" | "undecided";
}

/**
 * Converts a reading to the reference temperature of the unit file and says how sure it is: the way of reading, ± 3 °C of
 * the thermometer, a tenth of the expansion, and what was done carelessly, added as independent errors.
 * @returns undefined when temperature or reading are missing, or a mistake spoils the reading
 */
export function judgeLevel(unit: Unit, r: LevelReading): LevelJudgement | undefined {
  const { fluid } = unit;
  const mistakes = levelMistakes(unit, r);
  if (r.fluidC === null || r.litresFromFull === null || mistakes.some((m) => m.spoils)) return undefined;
  const { referenceC, toleranceL, method } = fluid.level;
  const read = Math.min(r.litresFromFull, r.otherSideL ?? Number.POSITIVE_INFINITY);
  const at = (fluidC: number, betaPerC = EXPANSION_PER_C) =>
    expandedL(fluid.totalL + read, fluidC, referenceC, betaPerC) - fluid.totalL;
  const atReferenceL = at(r.fluidC);
  const errors = [
    READS_TO_L[method],
    at(r.fluidC + THERMOMETER_C) - atReferenceL,
    at(r.fluidC, EXPANSION_PER_C * (1 + EXPANSION_UNSURE)) - atReferenceL,
    ...mistakes.map((m) => CARELESS_L[m.id] ?? 0),
  ];
  const plusMinusL = 2 * Math.hypot(...errors);
  const state =
    Math.abs(atReferenceL) <= toleranceL
      ? "ok"
      : Math.abs(atReferenceL) - plusMinusL / 2 <= toleranceL
        ? "undecided"
        : atReferenceL < 0
          ? "low"
          : "high";
  return { atReferenceL, plusMinusL, referenceC, state };
}

/**
 * How much a drain should bring at its temperature: what the pan gives at the reference temperature, and by how much the
 * whole fill has grown, for converter and lines stay full and push theirs into the pan. @returns l
 */
export function expectedDrainL({ fluid }: Unit, fluidC: number | null): number {
  const { referenceC } = fluid.level;
  return fluid.panDrainL + expandedL(fluid.totalL, referenceC, fluidC ?? referenceC) - fluid.totalL;
}

/**
 * What the marks of a stick stand for, l from full: the two hot ones, and the cold one, at which a right fill stands lower by what it
 * has not grown yet. Empty for a unit without a stick, or whose marks the file does not give.
 * V(T) = V₂₀·(1 + β·(T − 20 °C)).
 */
export function stickMarks({
  fluid,
}: Unit): { readonly id: "full" | "middle" | "add" | "cold"; readonly litresFromFull: number }[] {
  const { stick, referenceC } = fluid.level;
  if (!stick) return [];
  return [
    { id: "full", litresFromFull: 0 },
    { id: "middle", litresFromFull: -stick.addToFullL / 2 },
    { id: "add", litresFromFull: -stick.addToFullL },
    { id: "cold", litresFromFull: expandedL(fluid.totalL, referenceC, stick.coldMarkC) - fluid.totalL },
  ];
}
