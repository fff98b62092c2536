import type { Instrument } from "../knowledge/index.ts";
import {
  copperAt20,
  meanOf,
  oddsOf,
  SURE_ENOUGH,
  type Uncertain,
  uncertaintyOf,
  type Window,
} from "../measure/index.ts";

/** What a reading says against its window. */
export type Call = "in" | "out" | "close" | "no-limit";

export interface Verdict extends Uncertain {
  readonly below: number;
  readonly inside: number;
  readonly above: number;
  readonly call: Call;
}

/**
 * In, out, or too close to call, with the odds of being inside.
 * @param window - without ends: there is nothing to hold it against
 */
export function verdictOf({ value, uncertainty }: Uncertain, window: Pick<Window, "from" | "to"> | undefined): Verdict {
  if (!window || (window.from === undefined && window.to === undefined))
    return { value, uncertainty, below: 0, inside: 1, above: 0, call: "no-limit" };
  const odds = oddsOf(value, uncertainty, window);
  const call: Call = odds.inside >= SURE_ENOUGH ? "in" : odds.inside < 1 - SURE_ENOUGH ? "out" : "close";
  return { value, uncertainty, ...odds, call };
}

/**
 * Mean of what was read, brought to 20 °C where it is of copper.
 * @throws RangeError as {@link meanOf}
 */
export function readValue(
  readings: readonly number[],
  instrument: Pick<Instrument, "percent" | "fixed">,
  copperC?: number,
): Uncertain {
  const raw = meanOf(readings, instrument);
  return copperC === undefined
    ? raw
    : { value: copperAt20(raw.value, copperC), uncertainty: copperAt20(raw.uncertainty, copperC) };
}

/**
 * The coarsest instrument that decides where this reading could not, if it reads the same.
 * @param instruments - those of the shop; only those that read the unit of the measure are asked
 * @returns undefined when none does: the value lies on its limit
 */
export function measureAgainWith(
  verdict: Verdict,
  window: Pick<Window, "from" | "to">,
  unit: string,
  instruments: readonly Instrument[],
): Instrument | undefined {
  const finer = instruments
    .filter((i) => i.unit === unit && uncertaintyOf(i, verdict.value) < verdict.uncertainty)
    .sort((a, b) => uncertaintyOf(b, verdict.value) - uncertaintyOf(a, verdict.value));
  return finer.find((i) => {
    const { call } = verdictOf({ value: verdict.value, uncertainty: uncertaintyOf(i, verdict.value) }, window);
    return call === "in" || call === "out";
  });
}

/** A reading that looks as if it were of another unit, and what it would be then. */
export interface OtherUnit {
  readonly unit: string;
  /** in the unit of the measure */
  readonly value: number;
}

/** Units that are mixed up with those of a measure, largest factor first: how many of the measure's one of it is. */
const MIXED: Readonly<Record<string, readonly (readonly [string, number])[]>> = {
  mm: [
    ["in", 25.4],
    ["cm", 10],
    ["mil", 0.0254],
    ["µm", 0.001],
  ],
  kPa: [
    ["bar", 100],
    ["psi", 6.894757],
  ],
  Ω: [
    ["kΩ", 1000],
    ["mΩ", 0.001],
  ],
  V: [["mV", 0.001]],
  mV: [["V", 1000]],
  A: [["mA", 0.001]],
  ms: [["s", 1000]],
};
/** How far beyond what is expected a reading may lie before its unit is doubted, and how near another unit has to bring it. */
const FAR = 4;
const NEAR = 1.6;

/**
 * Asks whether a reading is of another unit: it lies far from all that is expected, and another unit brings it near.
 * @param expected - from the least to the most that such a part has, in the unit of the measure; both over nought
 * @returns undefined when it is plausible as it stands, or in no unit
 */
export function otherUnit(reading: number, unit: string, expected: readonly [number, number]): OtherUnit | undefined {
  const size = Math.abs(reading);
  const [least, most] = expected;
  if (!(size > 0) || (size >= least / FAR && size <= most * FAR)) return undefined;
  const middle = Math.sqrt(least * most);
  const near = (MIXED[unit] ?? [])
    .map(([name, factor]) => ({ unit: name, value: reading * factor }))
    .filter(({ value }) => Math.abs(value) >= least / NEAR && Math.abs(value) <= most * NEAR);
  return near.sort(
    (a, b) => Math.abs(Math.log(Math.abs(a.value) / middle)) - Math.abs(Math.log(Math.abs(b.value) / middle)),
  )[0];
}
