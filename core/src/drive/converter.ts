import { gearName, openSlipRpm } from "../unit/index.ts";
import type { Frame } from "./frame.ts";
import { finite, median, runs, where } from "./stats.ts";

export interface ConverterEpisode {
  readonly startS: number;
  readonly endS: number;
  readonly gears: readonly string[];
  /** time from the command until the slip first falls below the limit; undefined when it never does */
  readonly applyS: number | undefined;
  readonly state: "locked" | "controlled slip" | "slipping";
  /** median of |engine − turbine| after the apply time, rpm */
  readonly residualSlipRpm: number;
  /** what the converter would slip at the same torque with its clutch open; undefined without torque or rating */
  readonly openSlipRpm: number | undefined;
  readonly torqueNm: number | undefined;
  readonly fluidC: number | undefined;
  readonly vehicleKmh: number | undefined;
}

export interface ConverterAnalysis {
  readonly episodes: readonly ConverterEpisode[];
  readonly secondsOpen: number;
  readonly secondsApplying: number;
  readonly secondsApplied: number;
  /** gears in which the clutch was applied, with seconds */
  readonly byGear: Readonly<Record<string, number>>;
}

const COMMANDED_PCT = 30;
const SETTLE_S = 1.5;
const MIN_S = 2;

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
    const opens: number[] = [];
    let mid = span.start;
    const codes = new Uint8Array(secondsByCode.length);
    for (let i = span.start; i < span.end; i++) {
      const step = stepS[i] as number;
      if ((timeS[i] as number) < from) applying += step;
      else {
        applied += step;
        if (!mask[i] && !quiet[i]) {
          slips.push(slipAt(i));
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
    if (slips.length < 5) continue;
    const residual = median(slips);
    episodes.push({
      startS: start,
      endS: end,
      gears: [...codes.keys()].filter((g) => codes[g]).map(gearName),
      applyS: appliedIndex >= 0 ? (timeS[appliedIndex] as number) - start : undefined,
      state: residual > residualLimitRpm ? "slipping" : residual > residualLimitRpm / 3 ? "controlled slip" : "locked",
      residualSlipRpm: residual,
      openSlipRpm: finite(median(opens)),
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
    episodes,
    secondsOpen: Math.max(0, total - applying - applied),
    secondsApplying: applying,
    secondsApplied: applied,
    byGear,
  };
}
