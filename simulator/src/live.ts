import type { RelearnProcedure, Unit } from "@gearsense/core/unit";
import { drawBuild } from "./build.ts";
import type { StoredCode } from "./control/monitors.ts";
import type { SimulatedFault } from "./faults/fault.ts";
import { packsOf } from "./physics/hydraulics.ts";
import { seededRandom } from "./random.ts";
import { type Reader, readersOf } from "./record.ts";
import { Driver, type Feet } from "./road/driver.ts";
import { PROFILES, type ProfileName, type Range, startFluidC } from "./road/profiles.ts";
import { type RunningRoutine, startRoutine, writeLearned } from "./scan/routines.ts";
import { SimulatedVehicle, TICK_S } from "./vehicle.ts";

/**
 * Who sits in it: somebody who drives a profile round and round; nobody, hands and feet are put by {@link LiveVehicle.hands}; or
 * a helper who stands with the brake pressed, moves the lever where a routine wants it and drives in town while one wants a drive.
 */
export type LiveDriver = ProfileName | "by-hand" | "as-told";

export interface LiveInput {
  readonly unit: Unit;
  readonly seed: number;
  readonly vehicleSeed?: number | undefined;
  readonly faults: readonly SimulatedFault[];
  readonly driver: LiveDriver;
  /** learned on earlier drives, as the control unit reads them */
  readonly adaptations?: Readonly<Record<string, number>> | undefined;
}

/** Hands and feet of somebody at the wheel. */
export interface Hands {
  range: Range;
  brake: boolean;
  /** 0 … 1 */
  pedal: number;
}

const FOOT_ON_BRAKE_N = 6000;
/** a unit that was driven before it came in, °C */
const WARM_C = 75;
/** a helper takes so long to move the lever, s */
const HAND_S = 0.8;

/** Channels that can be read of a vehicle with such a unit, learned values included. */
export const readableChannels = (unit: Unit): string[] => readersOf(unit).map(([id]) => id);

const feetOf = ({ range, brake, pedal }: Hands): Feet => ({
  pedal,
  brakeN: brake ? FOOT_ON_BRAKE_N : 0,
  brake,
  range,
  grade: 0,
});

/** A vehicle that is driven while somebody listens: the drive goes round until nobody advances it any more. */
export class LiveVehicle {
  private readonly vehicle: SimulatedVehicle;
  private readonly driver: Driver;
  private readonly readers: ReadonlyMap<string, Reader>;
  private readonly obeys: boolean;
  private leftS = 0;
  private routine: { readonly procedure: RelearnProcedure; readonly running: RunningRoutine } | undefined;
  private leverS = 0;
  /** of somebody who is not driving a profile; undefined: the driver has the wheel */
  hands: Hands | undefined;

  /** @throws RangeError as {@link SimulatedVehicle} */
  constructor({ unit, seed, vehicleSeed, faults, driver, adaptations }: LiveInput) {
    const profile = driver === "by-hand" || driver === "as-told" ? undefined : driver;
    this.vehicle = new SimulatedVehicle({
      unit,
      seed,
      build: drawBuild(packsOf(unit).length, vehicleSeed ?? seed),
      faults,
      startFluidC: profile === undefined ? WARM_C : startFluidC(profile),
      adaptations,
    });
    this.driver = new Driver(PROFILES[profile ?? "town"], seededRandom(seed ^ 0x27d4eb2f));
    this.obeys = driver === "as-told";
    if (profile === undefined) this.hands = { range: "P", brake: true, pedal: 0 };
    this.readers = new Map(readersOf(unit));
  }

  get timeS(): number {
    return this.vehicle.timeS;
  }
  get supplyV(): number {
    return this.vehicle.readings.batteryV;
  }
  get codes(): readonly StoredCode[] {
    return this.vehicle.codes;
  }
  clearCodes(): void {
    this.vehicle.clearCodes();
  }

  /** @returns how it goes, or a refusal of ISO 14229-1 */
  startRoutine(procedure: RelearnProcedure): RunningRoutine | number {
    const running = startRoutine(this.vehicle, procedure);
    if (typeof running !== "number") this.routine = { procedure, running };
    return running;
  }
  /** @returns false when a value lies outside its limits */
  writeLearned(values: Readonly<Record<string, number>>): boolean {
    return writeLearned(this.vehicle, values);
  }

  /** What a scan tool would read now. @returns undefined for a channel that the vehicle has not; NaN for no reading */
  value(channel: string): number | undefined {
    return this.readers.get(channel)?.(this.vehicle);
  }

  /** Drives on by so many simulated seconds. */
  advance(seconds: number): void {
    this.leftS += seconds;
    const { massKg, dragNs2PerM2, rolling } = this.vehicle.powertrain.vehicle;
    for (; this.leftS >= TICK_S; this.leftS -= TICK_S) {
      const { fullPedalN, real } = this.vehicle;
      if (this.obeys && this.hands) this.obey(this.hands);
      this.vehicle.tick(
        this.hands && !(this.obeys && this.wantsDrive)
          ? feetOf(this.hands)
          : this.driver.tick(TICK_S, real.vehicleKmh, { massKg, dragNs2PerM2, rolling, fullPedalN }),
      );
    }
  }

  private get wantsDrive(): boolean {
    return this.routine?.procedure.machine?.kind === "drive-cycle" && this.routine.running.state === "running";
  }
  /** The lever goes where the routine wants it, after a moment. */
  private obey(hands: Hands): void {
    const lever = this.routine?.running.state === "running" ? this.routine.running.lever : undefined;
    this.leverS = lever === undefined || lever === hands.range ? 0 : this.leverS + TICK_S;
    if (lever !== undefined && this.leverS > HAND_S) hands.range = lever;
  }
}
