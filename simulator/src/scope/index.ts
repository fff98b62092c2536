import type { ScopeRecording } from "./solenoid.ts";

export type { ScopeRecording } from "./solenoid.ts";
export { SOLENOID_FAULTS, solenoidRecording } from "./solenoid.ts";
export { WHEEL_FAULTS, wheelRecording } from "./tooth-wheel.ts";

/** A recording as a scope saves it. */
export const scopeCsv = ({ columns, timeS, values }: ScopeRecording): string =>
  `${columns.join(",")}\n${[...timeS].map((t, i) => `${t.toFixed(6)},${(values[i] as number).toFixed(4)}`).join("\n")}\n`;
