/** Bands in which measures are grouped: a comparison is made inside one group only. */
export type LoadBand = "coast" | "light" | "medium" | "hard" | "unknown";
export type TemperatureBand = "cold" | "warm" | "hot" | "unknown";

/** @param load - input torque over the unit's largest, or pedal share; NaN = unknown */
export function loadBand(load: number | undefined): LoadBand {
  if (load === undefined || Number.isNaN(load)) return "unknown";
  if (load < 0.02) return "coast";
  if (load < 0.25) return "light";
  return load < 0.6 ? "medium" : "hard";
}

export function temperatureBand(fluidC: number | undefined): TemperatureBand {
  if (fluidC === undefined || Number.isNaN(fluidC)) return "unknown";
  if (fluidC < 50) return "cold";
  return fluidC < 90 ? "warm" : "hot";
}

export interface Group {
  readonly gear: string;
  readonly load: LoadBand;
  readonly temperature: TemperatureBand;
}

export const groupKey = (g: Group): string => `${g.gear}|${g.load}|${g.temperature}`;
