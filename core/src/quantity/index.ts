export { percent } from "./percent.ts";
export type { Formatted, Quantity, UnitSystem } from "./quantity.ts";
export { formatHours, formatQuantity, formatRange, fromDisplay, toDisplay, unitLabel } from "./quantity.ts";
