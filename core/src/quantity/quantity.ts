import {
  F_AT_0_C,
  F_PER_C,
  KM_PER_MILE,
  KPA_PER_INHG,
  KPA_PER_PSI,
  L_PER_QUART,
  MM_PER_INCH,
  NM_PER_LBF_FT,
} from "./factors.ts";

/** The quantities the program speaks about. Inside core each has one unit: the metric one below. */
export type Quantity =
  | "speed-rpm"
  | "torque"
  | "slip-per-torque"
  | "speed-rate"
  | "pressure"
  | "vacuum"
  | "temperature"
  | "temperature-difference"
  | "vehicle-speed"
  | "distance"
  | "volume"
  | "length"
  | "duration"
  | "frequency"
  | "percent"
  | "resistance"
  | "voltage"
  | "count"
  | "none";

export type UnitSystem = "metric" | "imperial";

export interface Formatted {
  readonly value: string;
  readonly unit: string;
  /** value and unit with a no-break space between them */
  readonly text: string;
}

interface Scale {
  readonly label: string;
  readonly factor: number;
  readonly offset: number;
  readonly decimals: number;
}

const plain = (label: string, decimals: number): Scale => ({ label, factor: 1, offset: 0, decimals });

const SCALES: Record<Quantity, Record<UnitSystem, Scale>> = {
  "speed-rpm": { metric: plain("rpm", 0), imperial: plain("rpm", 0) },
  torque: {
    metric: plain("N·m", 0),
    imperial: { label: "lbf·ft", factor: 1 / NM_PER_LBF_FT, offset: 0, decimals: 0 },
  },
  "speed-rate": { metric: plain("rpm/s", 0), imperial: plain("rpm/s", 0) },
  "slip-per-torque": {
    metric: plain("rpm/N·m", 2),
    imperial: { label: "rpm/lbf·ft", factor: NM_PER_LBF_FT, offset: 0, decimals: 2 },
  },
  pressure: { metric: plain("kPa", 0), imperial: { label: "psi", factor: 1 / KPA_PER_PSI, offset: 0, decimals: 0 } },
  vacuum: {
    metric: plain("kPa of vacuum", 0),
    imperial: { label: "inHg", factor: 1 / KPA_PER_INHG, offset: 0, decimals: 1 },
  },
  temperature: { metric: plain("°C", 0), imperial: { label: "°F", factor: F_PER_C, offset: F_AT_0_C, decimals: 0 } },
  "temperature-difference": {
    metric: plain("°C", 0),
    imperial: { label: "°F", factor: F_PER_C, offset: 0, decimals: 0 },
  },
  "vehicle-speed": {
    metric: plain("km/h", 0),
    imperial: { label: "mph", factor: 1 / KM_PER_MILE, offset: 0, decimals: 0 },
  },
  distance: { metric: plain("km", 0), imperial: { label: "mi", factor: 1 / KM_PER_MILE, offset: 0, decimals: 0 } },
  volume: { metric: plain("l", 1), imperial: { label: "qt", factor: 1 / L_PER_QUART, offset: 0, decimals: 1 } },
  length: { metric: plain("mm", 2), imperial: { label: "in", factor: 1 / MM_PER_INCH, offset: 0, decimals: 3 } },
  duration: { metric: plain("s", 2), imperial: plain("s", 2) },
  frequency: { metric: plain("Hz", 1), imperial: plain("Hz", 1) },
  percent: { metric: plain("%", 0), imperial: plain("%", 0) },
  resistance: { metric: plain("Ω", 1), imperial: plain("Ω", 1) },
  voltage: { metric: plain("V", 1), imperial: plain("V", 1) },
  count: { metric: plain("", 0), imperial: plain("", 0) },
  none: { metric: plain("", 2), imperial: plain("", 2) },
};

/** @returns the label of the unit shown for a quantity, empty when it has none */
export function unitLabel(quantity: Quantity, system: UnitSystem): string {
  return SCALES[quantity][system].label;
}

/** Core unit to the shown unit. @param value - in the core unit of `quantity` */
export function toDisplay(value: number, quantity: Quantity, system: UnitSystem): number {
  const s = SCALES[quantity][system];
  return value * s.factor + s.offset;
}

/** The shown unit back to the core unit; inverse of {@link toDisplay}. */
export function fromDisplay(shown: number, quantity: Quantity, system: UnitSystem): number {
  const s = SCALES[quantity][system];
  return (shown - s.offset) / s.factor;
}

function digits(value: number, decimals: number): string {
  if (!Number.isFinite(value)) return "–";
  const fixed = Math.abs(value).toFixed(decimals);
  const [whole = "0", part] = fixed.split(".");
  const grouped = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, "\u202f") : whole;
  const negative = value < 0 && Number(fixed) !== 0;
  return (negative ? "\u2212" : "") + grouped + (part ? `.${part}` : "");
}

/**
 * A number as it is shown: converted, rounded, with its unit.
 * @param value - in the core unit; NaN and infinities are shown as a dash
 * @param decimals - overrides the quantity's usual number of decimals
 */
export function formatQuantity(value: number, quantity: Quantity, system: UnitSystem, decimals?: number): Formatted {
  const s = SCALES[quantity][system];
  const text = digits(toDisplay(value, quantity, system), decimals ?? s.decimals);
  return { value: text, unit: s.label, text: s.label ? `${text}\u00a0${s.label}` : text };
}

/** A range "210–310 N·m"; one value when both ends round alike. */
export function formatRange(low: number, high: number, quantity: Quantity, system: UnitSystem): string {
  const a = formatQuantity(low, quantity, system);
  const b = formatQuantity(high, quantity, system);
  if (a.value === b.value) return b.text;
  return `${a.value}\u2009–\u2009${b.text}`;
}

/** Hours of labour to a tenth, as on a job card: "13.9", "9". @param hours - h */
export const formatHours = (hours: number): string => String(Math.round(hours * 10) / 10);
