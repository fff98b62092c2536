import type { ConverterAnalysis } from "./converter/converter.ts";
import type { EnginePull } from "./converter/pull.ts";
import type { Coverage } from "./coverage.ts";
import type { HeatAnalysis } from "./driveline/heat.ts";
import type { LoadReversal } from "./driveline/load-reversal.ts";
import type { OscillationAnalysis } from "./driveline/oscillation.ts";
import type { Road } from "./driveline/road.ts";
import type { TorqueCurve } from "./driveline/torque-curve.ts";
import type { CoolDown } from "./dual-clutch/cool-down.ts";
import type { Launch } from "./dual-clutch/launches.ts";
import type { PressureFollows } from "./dual-clutch/pressures.ts";
import type { Finding } from "./finding.ts";
import type { GearHunting } from "./gear/gear-hunting.ts";
import type { HeldAnalysis } from "./gear/held.ts";
import type { Immobile } from "./gear/immobile.ts";
import type { Limp } from "./gear/limp.ts";
import type { Reach } from "./gear/reach.ts";
import type { AdaptationValue } from "./sensors/adaptations.ts";
import type { Dropout } from "./sensors/dropouts.ts";
import type { PowerLoss } from "./sensors/power-losses.ts";
import type { ChannelQuality, Ripple } from "./sensors/quality.ts";
import type { Shift } from "./shift/shifts.ts";
import type { RatioFit } from "./signal/fit.ts";
import type { Idle } from "./standstill/idle.ts";
import type { NeutralPull } from "./standstill/neutral.ts";
import type { CoastStop, Engagement, StallTest } from "./standstill/standstill.ts";

/** What each measure says of a drive, by its id. Undefined: it could not be taken. */
export interface Measured {
  readonly held: HeldAnalysis;
  readonly shifts: readonly Shift[];
  readonly converter?: ConverterAnalysis | undefined;
  readonly oscillation: OscillationAnalysis;
  readonly dropouts: readonly Dropout[];
  readonly limp?: Limp | undefined;
  readonly engagements: readonly Engagement[];
  readonly stallTests: readonly StallTest[];
  readonly coastStops: readonly CoastStop[];
  readonly immobile: readonly Immobile[];
  readonly reach: readonly Reach[];
  /** undefined when too few solenoids were recorded */
  readonly powerLosses?: readonly PowerLoss[] | undefined;
  readonly gearHunting: readonly GearHunting[];
  readonly loadReversals: readonly LoadReversal[];
  /** of a converter unit */
  readonly pull?: EnginePull | undefined;
  /** of a dual clutch */
  readonly idle?: Idle | undefined;
  /** of a converter unit */
  readonly neutral?: NeutralPull | undefined;
  /** of a dual clutch */
  readonly launches: readonly Launch[];
  readonly heat?: HeatAnalysis | undefined;
  /** of a dual clutch */
  readonly coolDown?: CoolDown | undefined;
  readonly adaptations: readonly AdaptationValue[];
  /** of a dual clutch */
  readonly pressures: readonly PressureFollows[];
  readonly ripples: readonly Ripple[];
  /** highest torque by engine speed */
  readonly torqueCurve?: TorqueCurve | undefined;
  readonly road: Road;
}

export interface GearSpan {
  readonly gear: number;
  readonly startS: number;
  readonly endS: number;
}

export interface Analysis extends Measured {
  readonly format: "gearsense-analysis";
  readonly version: number;
  readonly unitId: string;
  readonly unitVersion: number;
  readonly durationS: number;
  readonly rateHz: number;
  readonly ratioFit: RatioFit;
  readonly loadSource?: string | undefined;
  readonly derived: readonly string[];
  /** by sensor of the unit: the channel that carries its reading */
  readonly sensorChannels: Readonly<Record<string, string>>;
  /** commanded gear over time, for the ribbon */
  readonly gearSpans: readonly GearSpan[];
  readonly quality: readonly ChannelQuality[];
  readonly coverage: Coverage;
  readonly findings: readonly Finding[];
  /** what the log could not show, and what to record */
  readonly notes: readonly string[];
}

/** A log of a vehicle with what was measured on it. */
export interface AnalysedLog {
  readonly logId: string;
  /** of the timeline */
  readonly entryId: string;
  readonly analysis: Analysis;
}
