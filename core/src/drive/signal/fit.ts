import { InputError, type Recording } from "../../log/index.ts";
import { gearByName, gearName, ratioTable, type Unit } from "../../unit/index.ts";
import { type Frame, tryFrame } from "./frame.ts";
import { median, quantile } from "./stats.ts";

export interface RatioFit {
  readonly unitId: string;
  readonly unitName: string;
  /** share of steady samples whose ratio is that of the commanded gear within 2 %; 0 when there are none */
  readonly share: number;
  readonly samples: number;
  /** in which it agrees for a while */
  readonly gears: number;
}

const TOLERANCE = 0.02;
const MIN_SAMPLES = 40;
const POOR = 0.4;
/** A slipping unit agrees less than a sound one; another unit agrees hardly at all. */
const GOOD = 0.5;

/** Another unit has to fit so much better than any gear of this one: a stuck solenoid gives other gears than commanded. */
const BETTER_BY = 0.2;
const OWN_GEARS = 0.7;
/** One gear may agree with that of another unit by chance. */
const IN_GEARS = 3;
const MIN_GEAR_SAMPLES = 20;

/** How well the ratios of a unit fit the log. Only samples in a steady forward gear, below half load, are counted. */
export function fitRatios(frame: Frame, unit: Unit): RatioFit {
  return fitsOf(frame, unit).commanded;
}

/** {@link fitRatios}, and the share of the same samples that have the ratio of any forward gear of the unit. */
function fitsOf(frame: Frame, unit: Unit): { readonly commanded: RatioFit; readonly anyGear: number } {
  const { timeS, gear, inputRpm, outputRpm, load } = frame;
  const ratios = ratioTable(unit);
  let since = 0;
  let last = Number.NaN;
  let samples = 0;
  const hits = new Map<number, number>();
  let anyHits = 0;
  const forward = unit.gears.filter((g) => g.ratio > 0).map((g) => g.ratio);
  for (let i = 0; i < timeS.length; i++) {
    const g = gear[i] as number;
    if (g !== last) {
      last = g;
      since = timeS[i] as number;
    }
    if (!(g > 0) || (timeS[i] as number) - since < 2 || (load[i] as number) > 0.5) continue;
    const out = outputRpm[i] as number;
    const input = inputRpm[i] as number;
    if (!(out > 250 && input > 1100)) continue;
    samples++;
    // a gear that the unit does not have has no ratio: no hit
    if (Math.abs(input / out / (ratios[g + 1] ?? Number.NaN) - 1) < TOLERANCE) hits.set(g, (hits.get(g) ?? 0) + 1);
    if (forward.some((ratio) => Math.abs(input / out / ratio - 1) < TOLERANCE)) anyHits++;
  }
  const share = (n: number) => (samples > 0 ? n / samples : 0);
  const byGear = [...hits.values()];
  return {
    commanded: {
      unitId: unit.id,
      unitName: unit.name,
      share: share(byGear.reduce((s, n) => s + n, 0)),
      samples,
      gears: byGear.filter((n) => n >= MIN_GEAR_SAMPLES).length,
    },
    anyGear: share(anyHits),
  };
}

/** Are the measured ratios steady and simply others? Slip wanders with torque; another unit's ratios do not. */
function steadilyOther(frame: Frame): boolean {
  const byGear = new Map<number, number[]>();
  for (let i = 0; i < frame.timeS.length; i++) {
    const g = frame.gear[i] as number;
    const out = frame.outputRpm[i] as number;
    const input = frame.inputRpm[i] as number;
    if (!(g > 0) || !(out > 250 && input > 1100) || (frame.load[i] as number) > 0.5) continue;
    const list = byGear.get(g);
    if (list) list.push(input / out);
    else byGear.set(g, [input / out]);
  }
  let judged = 0;
  let other = 0;
  for (const [g, list] of byGear) {
    if (list.length < 30) continue;
    judged++;
    const own = gearByName(frame.unit, gearName(g))?.ratio ?? Number.NaN;
    const middle = median(list);
    const spread = (quantile(list, 0.75) - quantile(list, 0.25)) / middle;
    if (Number.isNaN(own) || (Math.abs(middle / own - 1) > 0.03 && spread < 0.015)) other++;
  }
  return judged >= 3 && other / judged > 0.6;
}

const fits = (fit: RatioFit | undefined): fit is RatioFit =>
  fit !== undefined && fit.samples >= MIN_SAMPLES && fit.share >= GOOD;

/** The unit of the library whose ratios fit the recording best. @returns undefined when none fits well */
export function bestFit(recording: Recording, units: readonly Unit[]): RatioFit | undefined {
  const found: RatioFit[] = [];
  for (const unit of units) {
    const frame = tryFrame(recording, unit);
    if (!(frame instanceof InputError)) found.push(fitRatios(frame, unit));
  }
  return found.filter(fits).sort((a, b) => b.share - a.share)[0];
}

/**
 * Refuses a log that is another unit's: its channels do not suit, or its ratios are steadily other ones.
 * @param others - the rest of the library, to say which unit fits better
 * @throws InputError `channels-missing`, `wrong-unit`, naming the unit that fits better when there is one
 */
export function fittingFrame(
  recording: Recording,
  unit: Unit,
  others: readonly Unit[],
): { frame: Frame; fit: RatioFit } {
  const rest = others.filter((u) => u.id !== unit.id);
  const frame = tryFrame(recording, unit);
  if (frame instanceof InputError) {
    const better = bestFit(recording, rest);
    if (!better) throw frame;
    throw new InputError(
      frame.code,
      `${frame.message} The ratios fit ${better.unitName} (${Math.round(better.share * 100)} % of the steady driving).`,
    );
  }
  const { commanded: fit, anyGear } = fitsOf(frame, unit);
  if (fit.samples < MIN_SAMPLES || fit.share >= POOR) return { frame, fit };
  const best = bestFit(recording, rest);
  const better = best && best.gears >= IN_GEARS && best.share > anyGear + BETTER_BY ? best : undefined;
  if (!better && (anyGear >= OWN_GEARS || !steadilyOther(frame))) return { frame, fit };
  const advice = better
    ? `${better.unitName} agrees in ${Math.round(better.share * 100)} %. Check the unit of the job, or the log.`
    : "No unit of the library fits better. Check the unit of the job, and that turbine and output speed are mapped to the right columns.";
  throw new InputError(
    "wrong-unit",
    `The ratios in this log are not those of ${fit.unitName}: they agree in ${Math.round(fit.share * 100)} % of the steady driving. ${advice}`,
  );
}
