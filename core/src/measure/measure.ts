import { errorFunction, mean, sampleStandardDeviation } from "simple-statistics";
import type { Instrument, Measure } from "../knowledge/index.ts";
import { percent, type Quantity } from "../quantity/index.ts";
import { gearPressureKpa, PAPER_FRICTION, stallSpeedRpm, type Unit } from "../unit/index.ts";

/** What a reading has to lie between; an end that is open has none. */
export interface Window {
  readonly from: number | undefined;
  readonly to: number | undefined;
  /** where the numbers come from */
  readonly source: string;
}

/** Units of measures that read otherwise in imperial. */
export const QUANTITIES: Readonly<Record<string, Quantity>> = {
  mm: "length",
  kPa: "pressure",
  "°C": "temperature-difference",
  l: "volume",
  N·m: "torque",
  "kPa of vacuum": "vacuum",
};

/** A supply as low and a coil as hot as a valve still has to switch with. */
const LEAST_SUPPLY_V = 11;
const HOT_COIL_C = 100;

/** Copper: change of resistance with temperature, 1/K at 20 °C. Source: IEC 60028. */
const COPPER_PER_K = 0.00393;
/** A stall speed or a supply within this share of its rating is taken for right. */
const STALL_BAND = 0.1;
const SUPPLY_BAND = 0.05;

/** Resistance of a copper coil at 20 °C from one at another temperature, Ω. R20 = R / (1 + α (t − 20)). */
export const copperAt20 = (ohm: number, temperatureC: number): number => ohm / (1 + COPPER_PER_K * (temperatureC - 20));

/**
 * What a measure has to show in this unit: numbers of the library, or of the unit file for the component.
 * @param torqueNm - engine torque, for a stall speed
 * @returns undefined when the unit file does not give them: then they are typed from the maker's data
 */
export function windowOf(unit: Unit, measure: Measure, component: string, torqueNm?: number): Window | undefined {
  const file = (from: number | undefined, to: number | undefined): Window => ({
    from,
    to,
    source: `${unit.name}, unit file`,
  });
  const { window } = measure;
  if (!("of" in window)) return { from: window.from, to: window.to, source: "trade rule" };
  const bench = unit.elements.find((e) => e.id === component)?.bench;
  switch (window.of) {
    case "coil": {
      const coil = unit.solenoids.find((s) => s.id === component)?.resistanceOhmAt20C;
      return coil && file(coil[0], coil[1]);
    }
    case "clearance":
      return bench && file(bench.clearanceMm[0], bench.clearanceMm[1]);
    case "friction-plate":
      return bench && file(bench.frictionPlateMinMm, undefined);
    case "steel-plate":
      return bench && file(bench.steelPlateMinMm, undefined);
    case "supply": {
      const volts = unit.nets.find((n) => n.id === component)?.volts;
      return volts === undefined ? undefined : file(volts * (1 - SUPPLY_BAND), volts * (1 + SUPPLY_BAND));
    }
    case "engagement":
      return unit.limits.engagementDelayS === undefined ? undefined : file(undefined, unit.limits.engagementDelayS);
    case "stall": {
      const { converter } = unit;
      if (!converter) return undefined;
      const rated =
        converter.stallTorqueNm && torqueNm !== undefined ? stallSpeedRpm(converter, torqueNm) : converter.stallRpm;
      return file(rated * (1 - STALL_BAND), rated * (1 + STALL_BAND));
    }
    case "line-pressure-D":
    case "line-pressure-R": {
      // brake-torqued: the turbine stands, the converter multiplies
      const gear = window.of === "line-pressure-R" ? "R" : "1";
      const torque =
        (torqueNm ?? unit.converter?.stallTorqueNm ?? unit.maxInputTorqueNm) * (unit.converter?.stallTorqueRatio ?? 1);
      const least = gearPressureKpa(unit, gear, Math.min(torque, unit.maxInputTorqueNm), PAPER_FRICTION);
      const most = unit.limp.linePressureKpa;
      return least === undefined ? undefined : file(least, most);
    }
    case "coil-current": {
      // Ohm's law; less current than that has a coil or a wire in its way, more is none of this check's
      const coil = unit.solenoids.find((s) => s.id === component)?.resistanceOhmAt20C;
      return coil && file(LEAST_SUPPLY_V / (coil[1] * (1 + COPPER_PER_K * (HOT_COIL_C - 20))), undefined);
    }
    case "adaptation": {
      const learned = unit.adaptations?.find((a) => a.id === measure.id);
      return learned && file(learned.limits[0], learned.limits[1]);
    }
    case "gear-slip":
    case "slip":
      return unit.limits.slipRpm === undefined ? undefined : file(undefined, unit.limits.slipRpm);
    case "level":
      return file(-unit.fluid.level.toleranceL, unit.fluid.level.toleranceL);
    case "level-loss":
      return file(undefined, unit.fluid.level.toleranceL);
    case "maker":
      return undefined;
  }
}

/**
 * The measures of a check in this unit: what it learns, and slip in its gears, are as many as the unit file has.
 * @param component - id of an element; `unit` for all of them
 */
export function measuresFor(unit: Unit, measures: readonly Measure[], component: string): readonly Measure[] {
  return measures.flatMap((m): Measure[] => {
    const of = "of" in m.window ? m.window.of : undefined;
    if (of === "gear-slip")
      return unit.gears
        .filter((g) => g.name !== "R")
        .map((g) => ({ ...m, id: `${m.id}-${g.name}`, name: `${m.name} ${g.name}` }));
    if (of !== "adaptation") return [m];
    const learned = (unit.adaptations ?? []).filter((a) => component === "unit" || a.component === component);
    return learned.length === 0
      ? [m]
      : learned.map((a) => ({
          ...m,
          id: a.id,
          name: a.name,
          unit: a.unit,
          instrument: a.unit === "kPa" ? "scan-pressure" : "scan-time",
        }));
  });
}

/** How sure one reading of an instrument is: its share of the reading and its fixed part, root of the squares. */
export const uncertaintyOf = (instrument: Pick<Instrument, "percent" | "fixed">, reading: number): number =>
  Math.hypot((instrument.percent / 100) * reading, instrument.fixed);

export interface Judged {
  /** mean of the readings, at 20 °C where the measure is of copper */
  readonly value: number;
  /** standard uncertainty of that mean */
  readonly uncertainty: number;
  /** chances that the true value lies below, within and above the window; they sum to one */
  readonly below: number;
  readonly inside: number;
  readonly above: number;
  /** outcome of the check that is likeliest, and its chance */
  readonly outcome: string;
  readonly chance: number;
}

/** A chance in words: no reading is certain. */
export const surePercent = (p: number): string => percent(Math.min(0.9999, Math.max(0.0001, p)));

/** A verdict that is less sure than this is too close to call. */
export const SURE_ENOUGH = 0.8;

const normalCdf = (z: number): number =>
  z === Number.POSITIVE_INFINITY ? 1 : z === Number.NEGATIVE_INFINITY ? 0 : 0.5 * (1 + errorFunction(z / Math.SQRT2));

/** A value with its standard uncertainty. */
export interface Uncertain {
  readonly value: number;
  readonly uncertainty: number;
}

/**
 * Mean of repeated readings. Uncertainty by the GUM (JCGM 100:2008): that of the instrument, which repeating does not lower,
 * and that of the mean, s/√n; both as standard deviations of a normal distribution.
 * @throws RangeError without a reading, or with one that isn’t a number
 */
export function meanOf(readings: readonly number[], instrument: Pick<Instrument, "percent" | "fixed">): Uncertain {
  if (readings.length === 0) throw new RangeError("no reading");
  if (readings.some((r) => !Number.isFinite(r))) throw new RangeError("a reading isn’t a number");
  const value = mean([...readings]);
  const spread = readings.length > 1 ? sampleStandardDeviation([...readings]) / Math.sqrt(readings.length) : 0;
  return { value, uncertainty: Math.hypot(uncertaintyOf(instrument, value), spread) };
}

/** Chances that the true value lies below, within and above a window; they sum to one. @param uncertainty - 0: it is known */
export function oddsOf(
  value: number,
  uncertainty: number,
  { from, to }: Pick<Window, "from" | "to">,
): { readonly below: number; readonly inside: number; readonly above: number } {
  const under = (limit: number) => (uncertainty > 0 ? normalCdf((limit - value) / uncertainty) : Number(value < limit));
  const below = from === undefined ? 0 : under(from);
  const above = to === undefined ? 0 : uncertainty > 0 ? 1 - under(to) : Number(value > to);
  return { below, inside: Math.max(0, 1 - below - above), above };
}

/**
 * Judges the readings of one measure, see {@link meanOf} and {@link oddsOf}.
 * @param readings - at least one, in the unit of the measure
 * @param temperatureC - of the coil, where the measure asks for it
 * @throws RangeError without a reading, or with one that isn’t a number
 */
export function judgeReadings(
  measure: Measure,
  window: Window,
  instrument: Instrument,
  readings: readonly number[],
  temperatureC?: number,
): Judged {
  const raw = meanOf(readings, instrument);
  const value = measure.copper && temperatureC !== undefined ? copperAt20(raw.value, temperatureC) : raw.value;
  const { uncertainty } = raw;
  const { below, inside, above } = oddsOf(value, uncertainty, window);
  const sides: readonly (readonly [string, number])[] = [
    [measure.inside, inside],
    [measure.below ?? measure.above ?? measure.inside, below],
    [measure.above ?? measure.below ?? measure.inside, above],
  ];
  const byOutcome = new Map<string, number>();
  for (const [outcome, p] of sides) byOutcome.set(outcome, (byOutcome.get(outcome) ?? 0) + p);
  const [outcome, chance] = [...byOutcome].reduce((a, b) => (b[1] > a[1] ? b : a));
  return { value, uncertainty, below, inside, above, outcome, chance };
}

/** A measure of a check with what was read. */
export interface ReadMeasure {
  readonly measure: Measure;
  readonly judged: Judged;
}

/**
 * The outcome of a check from its measures: the one that is surest to lie outside decides, else all lie within. That all
 * lie outside is only said when all were measured.
 * @param asked - how many measures the check has
 * @returns the outcome with its chance; undefined when nothing was measured
 */
export function outcomeOf(
  read: readonly ReadMeasure[],
  asked: number = read.length,
): { readonly outcome: string; readonly chance: number } | undefined {
  const out = read.filter((r) => r.judged.outcome !== r.measure.inside);
  const [first] = out.length > 0 ? out : read;
  if (!first) return undefined;
  const allOut = first.measure.allOut;
  if (allOut !== undefined && asked > 1 && out.length === asked)
    return { outcome: allOut, chance: out.reduce((p, r) => p * (1 - r.judged.inside), 1) };
  if (out.length > 0)
    return out
      .map(({ judged: { outcome, chance } }) => ({ outcome, chance }))
      .reduce((a, b) => (b.chance > a.chance ? b : a));
  // all within: as sure as all of them together
  return { outcome: first.measure.inside, chance: read.reduce((p, r) => p * r.judged.inside, 1) };
}

/**
 * How far an outcome that rests on a number is believed: not at all when it is as likely as not, nearly wholly when it is
 * sure. What is not believed counts as likely under every fault.
 */
export const weightOf = (chance: number): number => Math.min(0.99, Math.max(0.02, 2 * chance - 1));

/** "4.8 – 5.6 Ω", "at least 1.6 mm", "at most 1.2 s". */
export function windowText({ from, to }: Window, unit: string, digits = 2): string {
  const n = (x: number) => String(Number(x.toFixed(digits)));
  if (from !== undefined && to !== undefined) return `${n(from)} – ${n(to)} ${unit}`;
  if (from !== undefined) return `at least ${n(from)} ${unit}`;
  return to === undefined ? "no limit" : `at most ${n(to)} ${unit}`;
}

/** Numbers out of a line of text: "5.1 5,2; 5.0". @returns undefined when something in it isn’t a number */
export function readingsIn(text: string): number[] | undefined {
  const words = text
    .trim()
    .split(/[\s;]+/)
    .filter((w) => w !== "");
  const numbers = words.map((w) => Number(w.replace(",", ".")));
  return numbers.some((n) => !Number.isFinite(n)) ? undefined : numbers;
}
