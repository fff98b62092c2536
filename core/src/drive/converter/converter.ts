import { converterTorques, gearName, openSlipRpm } from "../../unit/index.ts";
import { COMMANDED_PCT } from "../signal/clutch-command.ts";
import type { Frame } from "../signal/frame.ts";
import { extent, finite, median, quantile, quantileAt, runs, type Span, where } from "../signal/stats.ts";

export interface ConverterEpisode {
  readonly startS: number;
  readonly endS: number;
  readonly gears: readonly string[];
  /** time from the command until the slip first falls below the limit; undefined when it never does */
  readonly applyS?: number | undefined;
  readonly state: "locked" | "controlled slip" | "slipping";
  /** median of |engine − turbine| after the apply time, rpm */
  readonly residualSlipRpm: number;
  /** what the converter would slip at the same torque with its clutch open; undefined without torque or rating */
  readonly openSlipRpm?: number | undefined;
  /** upper quartile of |engine − turbine| where the engine pulls hardest; undefined where it did not */
  readonly loadedSlipRpm?: number | undefined;
  /** share of the unit's largest torque, or of the pedal: median */
  readonly load?: number | undefined;
  readonly torqueNm?: number | undefined;
  readonly fluidC?: number | undefined;
  readonly vehicleKmh?: number | undefined;
}

/** A clutch that slips does so where it carries most: its slip in the upper two fifths of the load that it was given. */
export interface SlipUnderLoad {
  /** upper quartile of |engine − turbine|, rpm */
  readonly slipRpm: number;
  /** upper quartile of what the open converter would slip there; undefined without torque or rating */
  readonly openRpm?: number | undefined;
  readonly seconds: number;
}

/** The clutch let go and taken again and again while nothing asks for it. */
export interface HuntingSpan {
  readonly startS: number;
  readonly endS: number;
  readonly gear: string;
  /** times let go and taken again */
  readonly cycles: number;
  readonly cyclesPerMin: number;
  readonly fluidC?: number | undefined;
  readonly vehicleKmh?: number | undefined;
}

export interface ConverterAnalysis {
  /** where its command comes from; from "slip" nothing can be said of how it holds */
  readonly from: "duty" | "state" | "pressure" | "slip";
  readonly episodes: readonly ConverterEpisode[];
  /** while it is meant to regulate its slip, and while it is said to be locked: slip where the engine pulls hardest */
  readonly regulated?: SlipUnderLoad | undefined;
  readonly locked?: SlipUnderLoad | undefined;
  /** while it is let go and the engine pulls: torque that the converter takes by its slip over that reported, median; near 0 it does not open */
  readonly letGo?: { readonly share: number; readonly seconds: number } | undefined;
  readonly hunting: readonly HuntingSpan[];
  readonly secondsOpen: number;
  readonly secondsApplying: number;
  readonly secondsApplied: number;
  /** gears in which the clutch was applied, with seconds */
  readonly byGear: Readonly<Record<string, number>>;
}

const SETTLE_S = 1.5;
const MIN_S = 2;
/** Of the load while it is applied: above this quantile it carries most. */
const LOADED_FROM = 0.6;
const UPPER = 0.75;
const LOADED_LEAST_S = 1.5;
/** Command that stands for a state that the log calls locked. */
const LOCKED_PCT = 100;
/** Of the unit's largest torque: with less the open converter hardly slips. */
const PULLS_SHARE = 0.1;
const LEAST_OPEN_SLIP_RPM = 60;
/** Turbine over engine: slower, the converter still pulls away. */
const ROLLS_SHARE = 0.5;
const LET_GO_AFTER_S = 1;

/**
 * The converter clutch from its command and its slip. Applying: from the command until the slip is below the limit, or
 * 1.5 s when it never is; then locked (below 1/3 of the limit), controlled slip, or slipping (above the limit).
 */
export function analyseConverter(
  frame: Frame,
  mask: Uint8Array,
  quiet: Uint8Array,
  residualLimitRpm: number,
): ConverterAnalysis | undefined {
  const { timeS, stepS, engineRpm, inputRpm, tccCommandPct, gear, torqueNm, fluidC, vehicleKmh, outputRpm, unit } =
    frame;
  if (!engineRpm || !tccCommandPct || engineRpm === inputRpm) return undefined;
  const n = timeS.length;
  const on = (i: number) => (tccCommandPct[i] as number) >= COMMANDED_PCT && (outputRpm[i] as number) > 200;
  const episodes: ConverterEpisode[] = [];
  let applying = 0;
  let applied = 0;
  const secondsByCode = new Float64Array(frame.ratios.length);
  const held: AppliedSamples = { index: [], episode: [] };
  for (const span of runs(timeS, where(n, on), 0.3, MIN_S, 4)) {
    const start = timeS[span.start] as number;
    const end = timeS[span.end - 1] as number;
    const slipAt = (i: number) => Math.abs((engineRpm[i] as number) - (inputRpm[i] as number));
    let appliedIndex = -1;
    for (let i = span.start; i < span.end; i++) {
      if (!mask[i] && slipAt(i) < residualLimitRpm) {
        appliedIndex = i;
        break;
      }
    }
    const from = appliedIndex >= 0 ? (timeS[appliedIndex] as number) : start + SETTLE_S;
    const slips: number[] = [];
    const torques: number[] = [];
    const loads: number[] = [];
    const opens: number[] = [];
    let mid = span.start;
    const codes = new Uint8Array(secondsByCode.length);
    for (let i = span.start; i < span.end; i++) {
      const step = stepS[i] as number;
      if ((timeS[i] as number) < from) applying += step;
      else {
        applied += step;
        if (!mask[i] && !quiet[i] && !Number.isNaN(slipAt(i))) {
          held.index.push(i);
          held.episode.push(episodes.length);
          slips.push(slipAt(i));
          loads.push(frame.load[i] as number);
          if (torqueNm) {
            torques.push(torqueNm[i] as number);
            const open = unit.converter && openSlipRpm(unit.converter, engineRpm[i] as number, torqueNm[i] as number);
            if (open !== undefined) opens.push(open);
          }
          mid = i;
        }
        const g = gear[i] as number;
        if (g > 0 && g < codes.length) {
          codes[g] = 1;
          secondsByCode[g] = (secondsByCode[g] as number) + step;
        }
      }
    }
    if (slips.length < 5) {
      while (held.episode.at(-1) === episodes.length) {
        held.episode.pop();
        held.index.pop();
      }
      continue;
    }
    const residual = median(slips);
    episodes.push({
      startS: start,
      endS: end,
      gears: [...codes.keys()].filter((g) => codes[g]).map(gearName),
      applyS: appliedIndex >= 0 ? (timeS[appliedIndex] as number) - start : undefined,
      state: residual > residualLimitRpm ? "slipping" : residual > residualLimitRpm / 3 ? "controlled slip" : "locked",
      residualSlipRpm: residual,
      openSlipRpm: finite(median(opens)),
      loadedSlipRpm: undefined,
      load: finite(median(loads)),
      torqueNm: finite(median(torques)),
      fluidC: finite(fluidC?.[mid]),
      vehicleKmh: finite(vehicleKmh?.[mid]),
    });
  }
  const byGear = Object.fromEntries(
    [...secondsByCode.entries()].filter(([, s]) => s > 0).map(([g, s]) => [gearName(g), s]),
  );
  const total = (timeS[n - 1] as number) - (timeS[0] as number);
  return {
    from: frame.tccFrom ?? "duty",
    ...underLoad(frame, held, episodes),
    letGo: slipLetGo(frame, mask, quiet),
    hunting: findHunting(frame),
    secondsOpen: Math.max(0, total - applying - applied),
    secondsApplying: applying,
    secondsApplied: applied,
    byGear,
  };
}

interface AppliedSamples {
  readonly index: number[];
  /** episode that each belongs to */
  readonly episode: number[];
}

/** Slip where the load was highest, over all applications and of each. */
function underLoad(
  { unit, tccCommandPct, tccFrom, load, torqueNm, engineRpm, inputRpm, stepS }: Frame,
  { index, episode }: AppliedSamples,
  episodes: readonly ConverterEpisode[],
): Pick<ConverterAnalysis, "episodes" | "regulated" | "locked"> {
  const isLocked = (i: number) => tccFrom === "state" && (tccCommandPct?.[i] as number) >= LOCKED_PCT;
  const slip = (i: number) => Math.abs((engineRpm?.[i] as number) - (inputRpm[i] as number));
  const ofEpisode = episodes.map((): number[] => []);
  const over = (locked: boolean): SlipUnderLoad | undefined => {
    const own = index.filter((i) => isLocked(i) === locked);
    const least = quantileAt(load, own, LOADED_FROM);
    const slips: number[] = [];
    const opens: number[] = [];
    let seconds = 0;
    for (let k = 0; k < index.length; k++) {
      const i = index[k] as number;
      // without any load known every sample counts
      if (isLocked(i) !== locked || (load[i] as number) < least) continue;
      seconds += stepS[i] as number;
      slips.push(slip(i));
      ofEpisode[episode[k] as number]?.push(slip(i));
      const open = unit.converter && openSlipRpm(unit.converter, engineRpm?.[i] as number, torqueNm?.[i] as number);
      if (open !== undefined) opens.push(open);
    }
    const slipRpm = quantile(slips, UPPER);
    const openRpm = finite(quantile(opens, UPPER));
    return seconds < LOADED_LEAST_S || Number.isNaN(slipRpm) ? undefined : { slipRpm, openRpm, seconds };
  };
  const [regulated, locked] = [over(false), over(true)];
  return {
    regulated,
    locked,
    episodes: episodes.map((e, k) => ({ ...e, loadedSlipRpm: finite(quantile(ofEpisode[k] ?? [], UPPER)) })),
  };
}

/**
 * What the converter takes by its slip of the torque reported while the clutch is let go and the engine pulls: (N/K)²·(1 − SR⁸)
 * over it. A weak engine lacks half of it; where a clutch holds on hardly any is left.
 */
function slipLetGo(frame: Frame, mask: Uint8Array, quiet: Uint8Array): ConverterAnalysis["letGo"] {
  const { unit, timeS, stepS, engineRpm, inputRpm, outputRpm, torqueNm, tccCommandPct, tccFrom } = frame;
  const { converter } = unit;
  if (!converter?.stallTorqueNm || !engineRpm || !torqueNm || !tccCommandPct || tccFrom === "slip") return undefined;
  const shares: number[] = [];
  let seconds = 0;
  let openSince = Number.NaN;
  for (let i = 0; i < timeS.length; i++) {
    if (!((tccCommandPct[i] as number) < 1)) {
      openSince = Number.NaN;
      continue;
    }
    if (Number.isNaN(openSince)) openSince = timeS[i] as number;
    const nm = torqueNm[i] as number;
    const [engine, turbine] = [engineRpm[i] as number, inputRpm[i] as number];
    if (mask[i] || quiet[i] || (timeS[i] as number) - openSince < LET_GO_AFTER_S) continue;
    if (!((outputRpm[i] as number) > 200 && nm > PULLS_SHARE * unit.maxInputTorqueNm && turbine > ROLLS_SHARE * engine))
      continue;
    const open = openSlipRpm(converter, engine, nm) as number;
    if (open < LEAST_OPEN_SLIP_RPM) continue;
    shares.push(converterTorques(converter, engine, turbine).pumpNm / nm);
    seconds += stepS[i] as number;
  }
  return seconds < LET_GO_LEAST_S ? undefined : { share: median(shares), seconds };
}

const LET_GO_LEAST_S = 2;

/** A clutch that is let go for longer than this was wanted open. */
const LONGEST_OPEN_S = 8;
export const HUNTING_CYCLES = 3;
/** of speed, km/h, and of the pedal, % */
const STEADY_WITHIN = [8, 12];

/**
 * Hunting: the command lets the clutch go and takes it again at least three times in a row, each time within 8 s, in one
 * gear, at a steady speed (within 8 km/h) and pedal (within 12 %).
 */
export function findHunting(frame: Frame): HuntingSpan[] {
  const { timeS, gear, tccCommandPct, vehicleKmh, pedalPct, fluidC, rateHz } = frame;
  if (!tccCommandPct) return [];
  const applied = where(timeS.length, (i) => (tccCommandPct[i] as number) >= COMMANDED_PCT);
  const on = runs(timeS, applied, 1.5 / rateHz, 0, 1);
  const out: HuntingSpan[] = [];
  let cycles = 0;
  let from = 0;
  let ranges: (readonly [number, number] | undefined)[] = [];
  const begin = (released: number) => {
    cycles = 0;
    from = released;
    ranges = [];
  };
  /** the span so far with some more samples; false when it is not steady any more */
  const steadyWith = (start: number, end: number) => {
    for (let i = start; i < end; i++) if (gear[i] !== gear[from]) return false;
    ranges = [vehicleKmh, pedalPct].map((values, k) => {
      const more = values && extent(values.subarray(start, end));
      const before = ranges[k];
      return more && before ? [Math.min(before[0], more[0]), Math.max(before[1], more[1])] : (more ?? before);
    });
    return ranges.every((r, k) => !r || r[1] - r[0] <= (STEADY_WITHIN[k] as number));
  };
  const close = (taken: number) => {
    if (cycles < HUNTING_CYCLES) return;
    const [startS, endS] = [timeS[from] as number, timeS[taken] as number];
    out.push({
      startS,
      endS,
      gear: gearName(gear[from] as number),
      cycles,
      cyclesPerMin: (60 * cycles) / (endS - startS),
      fluidC: finite(fluidC?.[taken]),
      vehicleKmh: finite(vehicleKmh?.[taken]),
    });
  };
  for (let k = 0; k + 1 < on.length; k++) {
    const [held, next] = [on[k], on[k + 1]] as [Span, Span];
    if (cycles === 0) begin(held.end - 1);
    const open = (timeS[next.start] as number) - (timeS[held.end - 1] as number);
    if (open <= LONGEST_OPEN_S && steadyWith(cycles === 0 ? from : held.start, next.start + 1)) cycles++;
    else {
      close(held.start);
      begin(held.end - 1);
      if (open <= LONGEST_OPEN_S && steadyWith(from, next.start + 1)) cycles = 1;
    }
  }
  close(on.at(-1)?.start ?? 0);
  return out;
}

/** Of the slip that the open converter would have at the same torque. */
const AS_OPEN = 0.85;
/** With less there is nothing to tell apart. */
const LEAST_OPEN_RPM = 60;

/**
 * Does the clutch never carry anything, whatever it is told? A leak or a worn lining holds a part of the torque, so that the
 * slip stays under that of the open converter (K-factor curve of the unit file).
 */
export function neverTakesHold({ episodes }: Pick<ConverterAnalysis, "episodes">): boolean {
  const shares = episodes.flatMap((e) =>
    (e.openSlipRpm ?? 0) > LEAST_OPEN_RPM ? [e.residualSlipRpm / (e.openSlipRpm as number)] : [],
  );
  return shares.length > 0 && median(shares) > AS_OPEN;
}
