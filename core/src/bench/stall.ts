import { median } from "simple-statistics";
import type { Analysis } from "../drive/index.ts";
import { type Converter, openSlipRpm, stallFactor, torqueRatio } from "../unit/index.ts";

/** Full-load torque of an engine over its speed: [rpm, N·m], speeds rising. */
export type TorqueCurve = readonly (readonly [number, number])[];

/**
 * What is wrong with a typed curve: too short, not rising in speed, no torque. Named by its place.
 * @returns undefined when it can be used
 */
export function curveProblem(curve: TorqueCurve): string | undefined {
  if (curve.length < 3) return `A torque curve needs at least three points, this one has ${curve.length}.`;
  for (const [i, [rpm, nm]] of curve.entries()) {
    const before = curve[i - 1];
    if (!Number.isFinite(rpm) || !Number.isFinite(nm)) return `Point ${i + 1} isn’t a pair of numbers.`;
    if (!(rpm > 0)) return `Point ${i + 1}: a speed is over 0 rpm, not ${rpm}.`;
    if (!(nm > 0)) return `Point ${i + 1} at ${rpm} rpm: a torque is over 0 N·m, not ${nm}.`;
    if (before && rpm <= before[0])
      return `Point ${i + 1} at ${rpm} rpm comes after ${before[0]} rpm: put the points in the order of their speeds, each once.`;
  }
  return undefined;
}

/** Torque at a speed, straight between the points; before the first and after the last it is theirs. */
export function curveTorqueNm(curve: TorqueCurve, rpm: number): number {
  const after = curve.findIndex(([n]) => n >= rpm);
  if (after === 0) return curve[0]?.[1] ?? 0;
  if (after < 0) return curve.at(-1)?.[1] ?? 0;
  const [n0, t0] = curve[after - 1] as readonly [number, number];
  const [n1, t1] = curve[after] as readonly [number, number];
  return t0 + ((t1 - t0) * (rpm - n0)) / (n1 - n0);
}

/**
 * Stall speed of a converter behind an engine: where the engine’s torque is what the pump takes up, N = K·√T(N).
 * @param factor - K, rpm per √N·m
 * @throws RangeError for a curve that cannot be used
 */
export function stallOnCurve(curve: TorqueCurve, factor: number): number {
  const problem = curveProblem(curve);
  if (problem) throw new RangeError(problem);
  // taken up less given: rises through nought once, as the first grows by the square and the second is bounded
  let low = 0;
  let high = factor * Math.sqrt(Math.max(...curve.map(([, t]) => t))) + 1;
  for (let i = 0; i < 60; i++) {
    const n = (low + high) / 2;
    if ((n / factor) ** 2 > curveTorqueNm(curve, n)) high = n;
    else low = n;
  }
  return (low + high) / 2;
}

/** What a converter does behind an engine. */
export interface ConverterBehind {
  readonly factor: number;
  readonly stallRpm: number;
  readonly engineNm: number;
  /** at the turbine when the vehicle stands */
  readonly launchNm: number;
  /** all that the engine gives at stall becomes heat, W */
  readonly stallHeatW: number;
  /** open at a steady cruise: slip and what it heats */
  readonly cruiseSlipRpm: number;
  readonly cruiseHeatW: number;
  /** the engine falls by so much as the clutch closes there */
  readonly lockupDropRpm: number;
}

/** A steady cruise that the open converter is looked at in. */
export const CRUISE = { engineRpm: 1800, share: 0.3 } as const;

const watts = (nm: number, rpm: number): number => (nm * rpm * 2 * Math.PI) / 60;

/** @throws RangeError as {@link stallOnCurve}, and when the converter is not rated */
export function converterBehind(converter: Converter, curve: TorqueCurve): ConverterBehind {
  const factor = stallFactor(converter);
  const stallRpm = stallOnCurve(curve, factor);
  const engineNm = curveTorqueNm(curve, stallRpm);
  const cruiseNm = CRUISE.share * curveTorqueNm(curve, CRUISE.engineRpm);
  const cruiseSlipRpm = openSlipRpm(converter, CRUISE.engineRpm, cruiseNm) ?? 0;
  return {
    factor,
    stallRpm,
    engineNm,
    launchNm: engineNm * torqueRatio(converter, 0),
    stallHeatW: watts(engineNm, stallRpm),
    cruiseSlipRpm,
    cruiseHeatW: watts(cruiseNm, cruiseSlipRpm),
    lockupDropRpm: cruiseSlipRpm,
  };
}

export interface ConverterChange {
  readonly old: ConverterBehind;
  readonly fresh: ConverterBehind;
  /** what changes, as one would say it */
  readonly says: readonly string[];
}

const by = (x: number, what: string) => `${Math.abs(Math.round(x))} ${what}`;
/** A change that nobody would feel. */
const SAME_RPM = 40;
const SAME_SHARE = 0.03;

/** Old against new converter behind one engine: launch, heat, lock-up. */
export function compareConverters(curve: TorqueCurve, old: Converter, fresh: Converter): ConverterChange {
  const a = converterBehind(old, curve);
  const b = converterBehind(fresh, curve);
  const says: string[] = [];
  const rise = b.stallRpm - a.stallRpm;
  says.push(
    Math.abs(rise) < SAME_RPM
      ? "Stalls at the same speed within what anybody would feel."
      : `Stalls ${by(rise, "rpm")} ${rise > 0 ? "higher" : "lower"}: ${Math.round(b.stallRpm)} instead of ${Math.round(a.stallRpm)} rpm.`,
  );
  const launch = b.launchNm / a.launchNm - 1;
  says.push(
    Math.abs(launch) < SAME_SHARE
      ? "Pulls away as before."
      : `${launch > 0 ? "More" : "Less"} torque from rest, ${by(100 * launch, "%")}: ${Math.round(b.launchNm)} N·m at the turbine instead of ${Math.round(a.launchNm)}.`,
  );
  const heat = b.cruiseHeatW / Math.max(1, a.cruiseHeatW) - 1;
  if (Math.abs(heat) >= SAME_SHARE)
    says.push(
      `Open at a steady ${CRUISE.engineRpm} rpm it slips ${Math.round(b.cruiseSlipRpm)} rpm instead of ${Math.round(a.cruiseSlipRpm)} and heats ${heat > 0 ? "more" : "less"}: ${Math.round(b.cruiseHeatW)} W instead of ${Math.round(a.cruiseHeatW)} W${heat > 0.25 ? "; a larger cooler, and lock-up as early as before" : ""}.`,
    );
  const drop = b.lockupDropRpm - a.lockupDropRpm;
  if (Math.abs(drop) >= SAME_RPM)
    says.push(
      `As the converter clutch closes the engine falls ${Math.round(b.lockupDropRpm)} rpm instead of ${Math.round(a.lockupDropRpm)}: the clutch takes up ${drop > 0 ? "more" : "less"}, ${drop > 0 ? "its learned values have to settle anew" : "it will be softer"}.`,
    );
  return { old: a, fresh: b, says };
}

/** What a log says of the capacity factor, K = N/√T. */
export interface LoggedFactor {
  readonly factor: number;
  /** how it was seen: the engine’s torque against the open converter in steady pulls, or at a stall test */
  readonly from: "pulls" | "stall-test";
}

type Seen = Pick<Analysis, "pull" | "stallTests">;

/**
 * Capacity factor that a log shows. With what the unit file rates, steady pulls tell the torque that the converter would take
 * over the torque that is reported, (K/K_file)²; a stall test tells its speed over the one expected, K/K_file. All steady pulls
 * count: near stall alone the engine is still speeding up and keeps torque to itself.
 * @returns undefined where the log has neither, or the unit file does not rate its converter
 */
export function loggedFactor(converter: Converter, analyses: readonly Seen[]): LoggedFactor | undefined {
  if (!converter.stallTorqueNm) return undefined;
  const rated = stallFactor(converter);
  const tests = analyses.flatMap((a) =>
    a.stallTests.flatMap((t) => (t.expectedRpm === undefined ? [] : [t.engineRpm / t.expectedRpm])),
  );
  if (tests.length > 0) return { factor: rated * median(tests), from: "stall-test" };
  const shares = analyses.flatMap((a) => (a.pull ? [a.pull.share] : []));
  return shares.length > 0 ? { factor: rated * Math.sqrt(median(shares)), from: "pulls" } : undefined;
}

export type FactorSays = "as-predicted" | "as-before" | "between" | "other";

/** A logged factor may be off by this share: an engine's reported torque is off by five per cent and more, its root by half. */
export const FACTOR_BAND = 0.05;

/** Is a logged factor that of the new converter, that of the old one, or neither? */
export function factorSays(logged: number, predicted: number, before: number): FactorSays {
  const near = (k: number) => Math.abs(logged / k - 1) <= FACTOR_BAND;
  // the nearer one, when both are near
  if (near(predicted) && Math.abs(logged - predicted) <= Math.abs(logged - before)) return "as-predicted";
  if (near(before)) return "as-before";
  return (logged - predicted) * (logged - before) < 0 ? "between" : "other";
}
