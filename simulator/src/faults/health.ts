import type { Unit } from "@gearsense/core/unit";
import type { EngineHealth } from "../physics/engine.ts";
import type { FluidHealth } from "../physics/fluid.ts";
import type { HydraulicHealth, Hydraulics } from "../physics/hydraulics.ts";
import { type DrivelineHealth, SOUND_DRIVELINE } from "../physics/powertrain.ts";

/** What a solenoid does instead of its command. `dead` draws no current; `off` and `on` are its unpowered and powered state. */
export type SolenoidState = "sound" | "dead" | "off" | "on";

/** How a reading differs from what is there. */
export interface SensorHealth {
  lost: boolean;
  offset: number;
  /** standard deviation added, in the unit of the reading */
  noise: number;
}

const soundSensor = (): SensorHealth => ({ lost: false, offset: 0, noise: 0 });

/**
 * The state of everything that can be broken. It is made sound before each tick and the faults write what they change;
 * physics, sensors and controller only ever see this.
 */
export class Health {
  readonly packIds: readonly string[];
  readonly engine: EngineHealth;
  readonly driveline: DrivelineHealth;
  readonly fluid: FluidHealth;
  readonly hydraulics: HydraulicHealth;
  /** by pack, 0 … 1 of the lining's grip gone */
  readonly wear: Float64Array;
  /** by pack, N·m that it drags when released */
  readonly dragNm: Float64Array;
  /** by pack, 0 … 1: grip of a launching clutch that falls with slip */
  readonly judder: Float64Array;
  /** converter clutch lining */
  converterWear = 0;
  converterGlaze = 0;
  oneWay: "sound" | "slips" | "seized" = "sound";
  readonly solenoids = new Map<string, SolenoidState>();
  /** share of its pressure that a solenoid loses */
  readonly solenoidLeak = new Map<string, number>();
  readonly sensors = new Map<string, SensorHealth>();
  private readonly sensorList: readonly SensorHealth[];
  /** forks that do not move, `fork:gear` */
  readonly forksStuck = new Set<string>();
  /** forks whose position is not read */
  readonly forksUnseen = new Set<string>();
  batteryV = 14;
  /** range that the switch tells instead of the lever's; "" reads nothing valid */
  rangeRead: "" | "P" | "R" | "N" | "D" | undefined;
  /** of a wheel out of balance, N·m at the output shaft at 20 m/s */
  wheelImbalanceNm = 0;
  /** once a turn of the output shaft, N·m */
  gearKnockNm = 0;
  /** share of the cooling of a dual clutch */
  clutchCooling = 1;
  /** the controller falls out for this long, s */
  powerLossS = 0;
  /** the controller's learned fill times are off by this share */
  fillOff = 0;
  /** of a brake that does not let go, at all wheels together, N */
  brakeDragN = 0;
  /** road speed shown over the real one */
  kmhScale = 1;
  /** 0 … 1 of the schedule's hysteresis is gone */
  restless = 0;

  constructor(
    unit: Unit,
    parts: { engine: EngineHealth; driveline: DrivelineHealth; fluid: FluidHealth; hydraulics: Hydraulics },
  ) {
    this.engine = parts.engine;
    this.driveline = parts.driveline;
    this.fluid = parts.fluid;
    this.hydraulics = parts.hydraulics.health;
    this.packIds = parts.hydraulics.packs.map((p) => p.id);
    const n = this.packIds.length;
    this.wear = new Float64Array(n);
    this.dragNm = new Float64Array(n);
    this.judder = new Float64Array(n);
    for (const s of unit.sensors) this.sensors.set(s.id, soundSensor());
    this.sensorList = [...this.sensors.values()];
  }

  /** Index of a pack. @throws RangeError for an element that has no piston */
  pack(id: string): number {
    const i = this.packIds.indexOf(id);
    if (i < 0) throw new RangeError(`${id} is not a friction element of this unit`);
    return i;
  }
  sensor(id: string): SensorHealth {
    const found = this.sensors.get(id);
    if (!found) throw new RangeError(`${id} is not a sensor of this unit`);
    return found;
  }

  reset(): void {
    this.engine.torqueScale = 1;
    this.engine.misfire = 0;
    this.engine.imbalanceNm = 0;
    Object.assign(this.driveline, SOUND_DRIVELINE);
    this.fluid.levelL = 0;
    this.fluid.spoiled = 0;
    this.fluid.frictionScale = 1;
    this.fluid.coolerShare = 1;
    this.hydraulics.reset();
    this.wear.fill(0);
    this.dragNm.fill(0);
    this.judder.fill(0);
    this.converterWear = 0;
    this.converterGlaze = 0;
    this.oneWay = "sound";
    this.solenoids.clear();
    this.solenoidLeak.clear();
    for (const s of this.sensorList) {
      s.lost = false;
      s.offset = 0;
      s.noise = 0;
    }
    this.forksStuck.clear();
    this.forksUnseen.clear();
    this.batteryV = 14;
    this.rangeRead = undefined;
    this.wheelImbalanceNm = 0;
    this.gearKnockNm = 0;
    this.clutchCooling = 1;
    this.powerLossS = 0;
    this.fillOff = 0;
    this.restless = 0;
    this.brakeDragN = 0;
    this.kmhScale = 1;
  }
}
