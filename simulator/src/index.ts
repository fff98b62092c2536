export type { SimulatedLog, SimulationInput } from "./drive.ts";
export { simulateDrive } from "./drive.ts";
export type { ExportStyle } from "./scan/export.ts";
export { PLAIN_STYLE, writeLog } from "./scan/export.ts";
export type { SimulatedFault, Truth } from "./faults.ts";
export type { Phase, ProfileName } from "./profile.ts";
export { PROFILES } from "./profile.ts";
export { seededRandom } from "./random.ts";
