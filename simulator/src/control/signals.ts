import type { Range } from "../road/profiles.ts";
import type { GearRow } from "./gear-table.ts";

/** What reaches the controller: readings of its own sensors, and what engine and brakes report. */
export interface Sensed {
  engineRpm: number;
  /** turbine speed; engine speed in a dual-clutch unit */
  inputRpm: number;
  outputRpm: number;
  /** shafts of K1 and K2 */
  shaftRpm: Float64Array;
  vehicleKmh: number;
  pedal: number;
  brake: boolean;
  /** of the range switch; undefined when it reads nothing valid */
  range: Range | undefined;
  fluidC: number;
  /** of the hotter clutch of a dual-clutch unit; the fluid's otherwise */
  clutchC: number;
  engineNm: number;
  linePressureKpa: number;
  batteryV: number;
}

/** What the controller can see of its actuators. */
export interface Feedback {
  /** solenoids that draw no current though powered */
  readonly openSolenoids: ReadonlySet<string>;
  /** forks that report to be in, `fork:gear` */
  readonly forksIn: ReadonlySet<string>;
  /** forks without any signal of their position, `fork:gear` */
  readonly forksUnseen: ReadonlySet<string>;
  /** pressure at which each dual clutch was seen to take torque, kPa, by pack; NaN when not seen */
  readonly touchKpa: Float64Array;
  /** how far each pack's piston is, 0 … 1, as a still turbine shows it once one alone is filled */
  readonly stroke: Float64Array;
}

export interface Commands {
  readonly packKpa: Float64Array;
  lineKpa: number;
  converterKpa: number;
  torqueRequest: number;
  /** forks that are to be in */
  readonly forks: Set<string>;
  gear: GearRow | undefined;
  /** all solenoids without current */
  unpowered: boolean;
}
