export {
  F_AT_0_C,
  F_PER_C,
  KM_PER_MILE,
  KPA_PER_INHG,
  KPA_PER_PSI,
  L_PER_QUART,
  MM_PER_INCH,
  NM_PER_LBF_FT,
} from "./factors.ts";
export { percent } from "./percent.ts";
export type { Formatted, Quantity, UnitSystem } from "./quantity.ts";
export { formatHours, formatQuantity, formatRange, fromDisplay, toDisplay, unitLabel } from "./quantity.ts";
