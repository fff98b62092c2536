import type { ShiftLimit, Unit } from "../unit/index.ts";

/** "this drive": what its own sound stretches are like. */
export type LimitSource = "unit file" | "this drive" | "typical";

export interface Limit {
  readonly value: number;
  readonly source: LimitSource;
}

/** Typical values for the trade, used where the unit file is silent. */
export const TYPICAL = {
  slipRpm: 50,
  ratioTolerancePct: 2,
  residualSlipRpm: 50,
  shudderPeakToPeakRpm: 30,
  engagementDelayS: 1,
  /** change of the output's acceleration in a shift */
  joltRpmPerS: 6000,
  judderPeakToPeakRpm: 7.5,
  vibrationPeakToPeakRpm: 20,
  rippleRpm: 12,
  stallShare: 0.12,
  fluidC: 120,
  fluidHighestC: 135,
  clutchC: 200,
  shift: { inertiaS: [0.15, 0.8], flareRpm: 100, delayS: 0.4 } satisfies ShiftLimit,
} as const;

const pick = (own: number | undefined, typical: number): Limit =>
  own === undefined ? { value: typical, source: "typical" } : { value: own, source: "unit file" };

/** The limits that judge a drive, each with where it came from. */
export function limitsOf(unit: Unit) {
  const l = unit.limits;
  return {
    slipRpm: pick(l.slipRpm, TYPICAL.slipRpm),
    ratioTolerancePct: pick(l.ratioTolerancePct, TYPICAL.ratioTolerancePct),
    residualSlipRpm: pick(l.residualSlipRpm, TYPICAL.residualSlipRpm),
    shudderPeakToPeakRpm: pick(l.shudderPeakToPeakRpm, TYPICAL.shudderPeakToPeakRpm),
    engagementDelayS: pick(l.engagementDelayS, TYPICAL.engagementDelayS),
    shift(name: string): { limit: ShiftLimit; source: LimitSource } {
      const own = l.shifts?.[name] ?? l.shiftDefault;
      return own ? { limit: own, source: "unit file" } : { limit: TYPICAL.shift, source: "typical" };
    },
  };
}
