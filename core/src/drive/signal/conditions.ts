/** Bands in which measures are grouped: a comparison is made inside one group only. */
export type LoadBand = "coast" | "light" | "medium" | "hard" | "unknown";
export type TemperatureBand = "cold" | "warm" | "hot" | "unknown";

const LOADS: readonly LoadBand[] = ["coast", "light", "medium", "hard", "unknown"];
const TEMPERATURES: readonly TemperatureBand[] = ["cold", "warm", "hot", "unknown"];

/** Edges in shares of the unit's largest input torque. */
function loadIndex(load: number | undefined): number {
  if (load === undefined || Number.isNaN(load)) return 4;
  if (load < 0.02) return 0;
  if (load < 0.25) return 1;
  return load < 0.6 ? 2 : 3;
}

/** Edges in °C. */
function temperatureIndex(fluidC: number | undefined): number {
  if (fluidC === undefined || Number.isNaN(fluidC)) return 3;
  if (fluidC < 50) return 0;
  return fluidC < 90 ? 1 : 2;
}

/** @param load - input torque over the unit's largest, or pedal share; NaN = unknown */
export const loadBand = (load: number | undefined): LoadBand => LOADS[loadIndex(load)] as LoadBand;

export const temperatureBand = (fluidC: number | undefined): TemperatureBand =>
  TEMPERATURES[temperatureIndex(fluidC)] as TemperatureBand;

export interface Group {
  readonly gear: string;
  readonly load: LoadBand;
  readonly temperature: TemperatureBand;
}

const BANDS = 8;

/** A number for each group, for loops over samples. */
export function groupCode(gearCode: number, load: number, fluidC: number | undefined): number {
  return ((gearCode + 2) * BANDS + loadIndex(load)) * BANDS + temperatureIndex(fluidC);
}

export const groupKey = (g: Group): string => `${g.gear}|${g.load}|${g.temperature}`;
