import type { HeatSpell } from "../../fluid/index.ts";
import type { Frame } from "../signal/frame.ts";
import { syncRpm } from "../signal/frame.ts";
import { extent, finite, median } from "../signal/stats.ts";

/** Temperatures over which fluid and linings age fast, °C. */
export const HOT_STEPS_C = [110, 120, 135] as const;

export interface HeatAnalysis {
  readonly sensor: "fluid" | "clutch";
  readonly fromC: number;
  readonly highestC: number;
  readonly highestAtS: number;
  /** time above each of {@link HOT_STEPS_C}, s */
  readonly secondsAbove: readonly number[];
  /** time at each temperature, in steps of 5 °C from 90 on, all below together */
  readonly spells: readonly HeatSpell[];
  /** fastest rise over half a minute, K/min */
  readonly fastestRiseKPerMin?: number | undefined;
  /** heat made by slip: converter of a converter unit, clutch of a dual clutch; undefined without torque */
  readonly slipEnergyKj?: number | undefined;
  readonly meanSlipPowerKw?: number | undefined;
  /** highest mean over half a minute */
  readonly highestSlipPowerKw?: number | undefined;
  /** what the cooler does: change of temperature while warm, driving and hardly slipping; undefined when not driven */
  readonly cruiseKPerMin?: number | undefined;
  readonly cruiseSeconds: number;
  readonly cooler: "cools" | "holds" | "loses" | "not driven";
}

const SPELL_FROM_C = 90;
const SPELL_C = 5;
const BLOCK_S = 30;
const WARM_C = 85;
const CRUISE_KMH = 40;
const GENTLE_KW = 2.5;
const LEAST_CRUISE_S = 60;
const HOLDS_K_PER_MIN = 1.5;

/**
 * Heat accounting: power made by slip P = T·Δω against how the temperature answers. Torque is that of the engine; slip is
 * engine − turbine of a converter unit, engine − ratio·output of a dual clutch.
 * @returns undefined when no temperature was recorded
 * P = T·2π·n/60, n the slip.
 */
export function analyseHeat(frame: Frame): HeatAnalysis | undefined {
  const { timeS, stepS, fluidC, engineRpm, inputRpm, torqueNm, vehicleKmh, gear, unit } = frame;
  const clutch = frame.clutchC;
  const temperature = fluidC ?? clutch;
  const range = temperature && extent(temperature);
  if (!temperature || !range) return undefined;
  const dual = unit.kind !== "planetary";
  const n = timeS.length;
  const powerW = (i: number): number => {
    const slip = dual
      ? (inputRpm[i] as number) - syncRpm(frame, gear[i] as number, i)
      : (engineRpm?.[i] ?? Number.NaN) - (inputRpm[i] as number);
    const p = Math.abs(((torqueNm?.[i] ?? Number.NaN) * slip * 2 * Math.PI) / 60);
    return p - p === 0 && (gear[i] as number) !== 0 ? p : Number.NaN;
  };
  const above = HOT_STEPS_C.map(() => 0);
  const spells = new Map<number, { kelvinS: number; seconds: number }>();
  let highestAt = 0;
  let energyJ = 0;
  let known = false;
  let cruiseS = 0;
  const cruise: number[] = [];
  let fastest = -Infinity;
  let hardest = -Infinity;
  let block = { start: 0, energyJ: 0, seconds: 0, moving: 0 };
  const close = (end: number) => {
    const lasts = (timeS[end] as number) - (timeS[block.start] as number);
    const [a, b] = [temperature[block.start] as number, temperature[end] as number];
    if (lasts > BLOCK_S * 0.8 && lasts < BLOCK_S * 1.5 && Number.isFinite(b - a)) {
      const rate = ((b - a) / lasts) * 60;
      fastest = Math.max(fastest, rate);
      const meanW = block.seconds > 0 ? block.energyJ / lasts : Number.NaN;
      if (meanW - meanW === 0) hardest = Math.max(hardest, meanW);
      if (a > WARM_C && meanW < GENTLE_KW * 1000 && block.moving > lasts * 0.8) {
        cruise.push(rate);
        cruiseS += lasts;
      }
    }
    block = { start: end, energyJ: 0, seconds: 0, moving: 0 };
  };
  for (let i = 0; i < n; i++) {
    const step = stepS[i] as number;
    const c = temperature[i] as number;
    if (c > (temperature[highestAt] as number) || Number.isNaN(temperature[highestAt] as number)) highestAt = i;
    HOT_STEPS_C.forEach((limit, k) => {
      if (c > limit) above[k] = (above[k] as number) + step;
    });
    if (c - c === 0) {
      // a spell ends with its last degree: what is above 110 °C is in those above it
      const at = c <= SPELL_FROM_C ? 0 : Math.ceil((c - SPELL_FROM_C) / SPELL_C);
      const spell = spells.get(at) ?? { kelvinS: 0, seconds: 0 };
      spell.kelvinS += c * step;
      spell.seconds += step;
      spells.set(at, spell);
    }
    const p = powerW(i);
    if (p - p === 0) {
      known = true;
      energyJ += p * step;
      block.energyJ += p * step;
      block.seconds += step;
    }
    if ((vehicleKmh?.[i] ?? 0) > CRUISE_KMH) block.moving += step;
    if ((timeS[i] as number) - (timeS[block.start] as number) >= BLOCK_S) close(i);
  }
  const total = (timeS[n - 1] as number) - (timeS[0] as number);
  const cruiseRate = finite(median(cruise));
  return {
    sensor: fluidC ? "fluid" : "clutch",
    fromC: temperature.find((t) => t - t === 0) ?? Number.NaN,
    highestC: range[1],
    highestAtS: timeS[highestAt] as number,
    secondsAbove: above,
    spells: [...spells]
      .sort(([a], [b]) => a - b)
      .filter(([, s]) => s.seconds > 0)
      .map(([, s]) => ({ fluidC: s.kelvinS / s.seconds, hours: s.seconds / 3600 })),
    fastestRiseKPerMin: finite(fastest),
    slipEnergyKj: known ? energyJ / 1000 : undefined,
    meanSlipPowerKw: known && total > 0 ? energyJ / total / 1000 : undefined,
    highestSlipPowerKw: known ? finite(hardest / 1000) : undefined,
    cruiseKPerMin: cruiseRate,
    cruiseSeconds: cruiseS,
    cooler:
      cruiseRate === undefined || cruiseS < LEAST_CRUISE_S
        ? "not driven"
        : cruiseRate < -HOLDS_K_PER_MIN / 3
          ? "cools"
          : cruiseRate < HOLDS_K_PER_MIN
            ? "holds"
            : "loses",
  };
}
