import { type Frame, syncRpm } from "../signal/frame.ts";
import { type Peak, strongestPeak } from "../signal/spectrum.ts";
import { finite } from "../signal/stats.ts";

/** A start from rest with a dual clutch. */
export interface Launch {
  readonly gear: string;
  readonly startS: number;
  /** the clutch has closed, or the search ended */
  readonly endS: number;
  readonly closed: boolean;
  /** time with the clutch slipping, s */
  readonly slipS: number;
  readonly highestSlipRpm: number;
  /** ∫ T·Δω dt, kJ; undefined without torque */
  readonly energyKj?: number | undefined;
  /** ripple of the output speed in the later half of the slip; undefined when the launch was too short for the rate */
  readonly judder?: Peak | undefined;
  /** the ripple was far stronger before: shafts that the take-up set vibrating, no judder */
  readonly vibrationDies: boolean;
  readonly torqueNm?: number | undefined;
  readonly clutchC?: number | undefined;
  readonly pedalPct?: number | undefined;
}

const REST_RPM = 30;
const CLOSED_RPM = 45;
const CLOSED_S = 0.2;
const LONGEST_S = 9;
const BEFORE_S = 0.8;
const LEAST_S = 0.6;
const LEAST_PEDAL_PCT = 4;
/**
 * Band of launch judder, Hz. Usual is 4 to 14; below the lower end the shafts vibrate by themselves
 * when the clutch takes hold.
 */
export const JUDDER_BAND_HZ: readonly [number, number] = [4.8, 15];
const JUDDER_LEAST_S = 0.8;
const JUDDER_RATE_HZ = 18;
/** What the take-up itself does. */
const TAKE_UP_S = 0.4;
/** In the later half of the slip a vibration of the take-up is a third of what it was, or less; a clutch that judders goes on. */
const DIES_SHARE = 0.35;

/**
 * Starts from rest of a dual-clutch unit: from the first turn of the output with the pedal down until engine and
 * ratio·output agree within 45 rpm for 0.2 s.
 */
export function findLaunches(frame: Frame, gearNameOf: (code: number) => string): Launch[] {
  const { timeS, stepS, gear, inputRpm, outputRpm, torqueNm, clutchC, pedalPct, unit, rateHz } = frame;
  const out: Launch[] = [];
  if (unit.kind === "planetary") return out;
  const n = timeS.length;
  for (let i = 1; i < n; i++) {
    const g = gear[i] as number;
    if (!(Math.abs(g) > 0) || !((outputRpm[i - 1] as number) <= REST_RPM) || !((outputRpm[i] as number) > REST_RPM))
      continue;
    // the clutch takes hold before the output's sensor tells anything
    const turnsAt = i;
    let start = i;
    while (
      start > 0 &&
      gear[start - 1] === g &&
      (timeS[i] as number) - (timeS[start - 1] as number) < BEFORE_S &&
      ((pedalPct?.[start - 1] ?? 0) > LEAST_PEDAL_PCT || (outputRpm[start - 1] as number) > 0)
    )
      start--;
    let closed = -1;
    let slipS = 0;
    let energyJ = 0;
    let known = false;
    let highest = 0;
    let pedal = 0;
    let torque = 0;
    let end = start;
    for (; end < n && (timeS[end] as number) - (timeS[start] as number) < LONGEST_S; end++) {
      if (gear[end] !== g || (end > i && (outputRpm[end] as number) < REST_RPM / 2)) break;
      const slip = (inputRpm[end] as number) - syncRpm(frame, g, end);
      pedal = Math.max(pedal, finite(pedalPct?.[end]) ?? 0);
      // nothing was read there
      if (Number.isNaN(slip)) continue;
      if (Math.abs(slip) < CLOSED_RPM) {
        if (closed < 0) closed = end;
        if ((timeS[end] as number) - (timeS[closed] as number) >= CLOSED_S) break;
        continue;
      }
      closed = -1;
      const step = stepS[end] as number;
      slipS += step;
      highest = Math.max(highest, slip);
      const p = ((torqueNm?.[end] ?? Number.NaN) * slip * 2 * Math.PI) / 60;
      if (p - p === 0) {
        known = true;
        energyJ += Math.max(0, p) * step;
        torque = Math.max(torque, torqueNm?.[end] as number);
      }
    }
    const last = closed >= 0 ? closed : Math.min(end, n - 1);
    const lasts = (timeS[last] as number) - (timeS[start] as number);
    i = Math.max(i, last);
    // creeping along isn’t a launch
    if (lasts < LEAST_S || slipS < LEAST_S / 2 || (pedalPct && pedal < LEAST_PEDAL_PCT)) continue;
    out.push({
      gear: gearNameOf(g),
      startS: timeS[start] as number,
      endS: timeS[last] as number,
      closed: closed >= 0,
      slipS,
      highestSlipRpm: highest,
      energyKj: known ? energyJ / 1000 : undefined,
      ...judderOf(outputRpm.subarray(turnsAt, last), rateHz),
      torqueNm: known ? torque : undefined,
      clutchC: finite(clutchC?.[start]),
      pedalPct: pedalPct ? pedal : undefined,
    });
  }
  return out;
}

/**
 * Ripple about the curve of the launch: a parabola is taken off first, for a launch gains speed unevenly. It is measured in
 * the later half, and beside the earlier one where that is long enough.
 */
function judderOf(output: Float64Array, rateHz: number): Pick<Launch, "judder" | "vibrationDies"> {
  const least = Math.max(12, Math.ceil(JUDDER_LEAST_S * rateHz));
  const takeUp = Math.round(TAKE_UP_S * rateHz);
  const n = output.length;
  if (n - takeUp < least) return { judder: undefined, vibrationDies: false };
  const later = output.subarray(n - Math.max(least, Math.ceil((n - takeUp) / 2)));
  // with the take-up, which sets the shafts vibrating
  const earlier = output.subarray(0, n - later.length);
  const judder = rippleOf(later, rateHz);
  const before = rippleOf(earlier, rateHz);
  return {
    judder,
    vibrationDies: judder !== undefined && before !== undefined && judder.peakToPeak < DIES_SHARE * before.peakToPeak,
  };
}

function rippleOf(output: Float64Array, rateHz: number): Peak | undefined {
  const n = output.length;
  const top = Math.min(JUDDER_BAND_HZ[1], 0.45 * rateHz);
  if (rateHz < JUDDER_RATE_HZ || top < JUDDER_BAND_HZ[0] + 1.5 || output.some((v) => Number.isNaN(v))) return undefined;
  const rest = withoutParabola(output);
  let padTo = 64;
  while (padTo < n * 2) padTo *= 2;
  return strongestPeak(rest, rateHz, JUDDER_BAND_HZ[0], top, padTo, true);
}

/** Judder of a launch, rpm peak to peak: none where the vibration of the take-up dies away. */
export const judderRpm = (l: Launch): number | undefined => (l.vibrationDies ? 0 : l.judder?.peakToPeak);

/** Least squares with the first three orthogonal polynomials of an even grid. */
export function withoutParabola(values: Float64Array): Float64Array {
  const n = values.length;
  const middle = (n - 1) / 2;
  const square = (n * n - 1) / 12;
  let [s0, s1, s2, n1, n2] = [0, 0, 0, 0, 0];
  for (let i = 0; i < n; i++) {
    const x = i - middle;
    const q = x * x - square;
    const v = values[i] as number;
    s0 += v;
    s1 += v * x;
    s2 += v * q;
    n1 += x * x;
    n2 += q * q;
  }
  return values.map((v, i) => {
    const x = i - middle;
    return v - s0 / n - (n1 > 0 ? (s1 / n1) * x : 0) - (n2 > 0 ? (s2 / n2) * (x * x - square) : 0);
  });
}
