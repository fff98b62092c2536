import type { Unit } from "@gearsense/core/unit";
import { drawBuild } from "./build.ts";
import type { StoredCode } from "./control/monitors.ts";
import type { SimulatedFault } from "./faults/fault.ts";
import { packsOf } from "./physics/hydraulics.ts";
import { seededRandom } from "./random.ts";
import { type Reader, readersOf } from "./record.ts";
import { Driver } from "./road/driver.ts";
import { PROFILES, type ProfileName, startFluidC } from "./road/profiles.ts";
import { SimulatedVehicle, TICK_S } from "./vehicle.ts";

export interface LiveInput {
  readonly unit: Unit;
  readonly seed: number;
  readonly vehicleSeed?: number | undefined;
  readonly faults: readonly SimulatedFault[];
  readonly profile: ProfileName;
}

/** Channels that can be read of a vehicle with such a unit, learned values included. */
export const readableChannels = (unit: Unit): string[] => readersOf(unit).map(([id]) => id);

/** A vehicle that is driven while somebody listens: the drive goes round until nobody advances it any more. */
export class LiveVehicle {
  private readonly vehicle: SimulatedVehicle;
  private readonly driver: Driver;
  private readonly readers: ReadonlyMap<string, Reader>;
  private leftS = 0;

  /** @throws RangeError as {@link SimulatedVehicle} */
  constructor({ unit, seed, vehicleSeed, faults, profile }: LiveInput) {
    this.vehicle = new SimulatedVehicle({
      unit,
      seed,
      build: drawBuild(packsOf(unit).length, vehicleSeed ?? seed),
      faults,
      startFluidC: startFluidC(profile),
    });
    this.driver = new Driver(PROFILES[profile], seededRandom(seed ^ 0x27d4eb2f));
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
    this.vehicle.controller.codes.clear();
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
      this.vehicle.tick(this.driver.tick(TICK_S, real.vehicleKmh, { massKg, dragNs2PerM2, rolling, fullPedalN }));
    }
  }
}
