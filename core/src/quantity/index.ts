export type { Formatted, Quantity, UnitSystem } from "./quantity.ts";
export { formatQuantity, formatRange, fromDisplay, toDisplay, unitLabel } from "./quantity.ts";
