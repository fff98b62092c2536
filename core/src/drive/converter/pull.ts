import { converterTorques } from "../../unit/index.ts";
import type { Frame } from "../signal/frame.ts";
import { quantile } from "../signal/stats.ts";

/** The open converter as a dynamometer: what it takes of the engine against what the engine reports. */
export interface EnginePull {
  /** torque that the converter takes over the torque reported, median */
  readonly share: number;
  readonly seconds: number;
  /** the same near stall, and near coupling, where the stator has nothing to take up; undefined with hardly any such pull */
  readonly startShare?: number | undefined;
  readonly couplingShare?: number | undefined;
}

/** Less than this of what is reported is not there; what an engine reports and what a converter is rated at are each off by a tenth and more. */
export const PULL_LOW = 0.75;
/** Of a slipping stator near stall: so much at most of what is taken near coupling, and near coupling all is there. */
const STATOR_SHARE = 0.7;

/**
 * What the engine's torque against the converter says: a stator that slips takes the pump down near stall and is of no
 * account near coupling; an engine that is weak lacks torque everywhere.
 */
export function pullOutcome(pull: EnginePull): "fits" | "low" | "from-rest" {
  const { share, startShare, couplingShare } = pull;
  if (
    startShare !== undefined &&
    couplingShare !== undefined &&
    couplingShare >= PULL_LOW &&
    startShare < STATOR_SHARE * couplingShare
  )
    return "from-rest";
  return share < PULL_LOW ? "low" : "fits";
}

/** Torque that is reported and not there, %; a converter that takes more misses nothing. */
export const missingPct = (share: number): number => Math.max(0, 1 - share) * 100;

const LEAST_NM = 40;
/** above it the converter couples and tells little */
const MOST_SPEED_RATIO = 0.9;
/** Speed ratios near stall and near coupling */
const NEAR_STALL = 0.4;
const NEAR_COUPLING = 0.78;
/** faster, and the engine's own inertia counts */
const STEADY_RPM_PER_S = 300;
const LEAST_S = 1;
const STEP_S = 0.2;

/**
 * Does the engine give what it reports? T = (N/K)²·(1 − SR⁸) of the open converter in steady pulls.
 * @returns undefined for a unit without a rated converter, without its clutch's command, or with hardly any such pull
 */
export function analysePull(frame: Frame, mask: Uint8Array): EnginePull | undefined {
  const { unit, timeS, stepS, engineRpm, inputRpm, torqueNm, tccCommandPct, gear } = frame;
  const { converter } = unit;
  if (!converter?.stallTorqueNm || !engineRpm || engineRpm === inputRpm || !torqueNm || !tccCommandPct)
    return undefined;
  const back = Math.max(1, Math.round(STEP_S * frame.rateHz));
  const shares: number[] = [];
  const [start, coupling]: [number[], number[]] = [[], []];
  let seconds = 0;
  for (let i = back; i < timeS.length; i++) {
    const n = engineRpm[i] as number;
    const reported = torqueNm[i] as number;
    const rate = (n - (engineRpm[i - back] as number)) / ((timeS[i] as number) - (timeS[i - back] as number));
    if (mask[i] || !(reported > LEAST_NM) || !((tccCommandPct[i] as number) < 1) || !(Math.abs(gear[i] as number) > 0))
      continue;
    if (!(Math.abs(rate) < STEADY_RPM_PER_S) || !((inputRpm[i] as number) < MOST_SPEED_RATIO * n)) continue;
    const turbine = Math.max(0, inputRpm[i] as number);
    const share = converterTorques(converter, n, turbine).pumpNm / reported;
    shares.push(share);
    if (turbine < NEAR_STALL * n) start.push(share);
    if (turbine > NEAR_COUPLING * n) coupling.push(share);
    seconds += stepS[i] as number;
  }
  if (seconds < LEAST_S) return undefined;
  const middle = (list: readonly number[]) =>
    list.length < LEAST_S * frame.rateHz ? undefined : quantile([...list], 0.5);
  return { share: quantile(shares, 0.5), seconds, startShare: middle(start), couplingShare: middle(coupling) };
}
