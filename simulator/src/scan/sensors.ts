import type { Unit } from "@gearsense/core/unit";
import type { Health, SensorHealth } from "../faults/health.ts";
import type { Powertrain } from "../physics/powertrain.ts";
import { normal } from "../random.ts";

/** below it a tooth sensor gives no pulses worth counting, rpm */
const SLOWEST_RPM = 20;
const SPEED_NOISE_RPM = 1.4;
const CRANK_NOISE_RPM = 1.8;
const FLUID_LAG_S = 4;
/** what an open temperature sensor reads */
const OPEN_FLUID_C = -50;

interface Source {
  readonly powertrain: Powertrain;
  readonly real: {
    readonly engineRpm: number;
    readonly outputRpm: number;
    readonly vehicleKmh: number;
    readonly fluidC: number;
    readonly clutchC: number;
  };
  nodeOf(channel: string): string | undefined;
}

/** Sensors of the vehicle: tooth counting, noise, lag, and what is wrong with them. Controller and scan tool read the same. */
export class SensorBank {
  private readonly unit: Unit;
  private readonly health: Health;
  private readonly random: () => number;
  private readonly values = new Map<string, number>();
  private readonly speeds: readonly { readonly channel: string; readonly health: SensorHealth }[];
  private readonly fluid: SensorHealth | undefined;
  private fluidC = Number.NaN;

  constructor(unit: Unit, health: Health, random: () => number) {
    this.unit = unit;
    this.health = health;
    this.random = random;
    this.speeds = this.unit.sensors
      .filter((s) => s.channel.endsWith("_rpm"))
      .map((s) => ({ channel: s.channel, health: health.sensor(s.id) }));
    const fluid = unit.sensors.find((s) => s.channel === "fluid_c");
    this.fluid = fluid && this.health.sensor(fluid.id);
  }

  value(channel: string): number {
    return this.values.get(channel) ?? Number.NaN;
  }

  read(dtS: number, from: Source): void {
    const { random, values } = this;
    const { real } = from;
    values.set("engine_rpm", Math.max(0, Math.round(real.engineRpm + normal(random, CRANK_NOISE_RPM))));
    values.set("vehicle_kmh", Math.round(real.vehicleKmh * 10) / 10);
    for (const { channel, health } of this.speeds) {
      const node = from.nodeOf(channel);
      if (!node) continue;
      const rpm = Math.abs(from.powertrain.nodeRpm(node));
      const noise = normal(random, SPEED_NOISE_RPM + health.noise);
      values.set(channel, health.lost || rpm < SLOWEST_RPM ? 0 : Math.max(0, Math.round(rpm + health.offset + noise)));
    }
    if (Number.isNaN(this.fluidC)) this.fluidC = real.fluidC;
    this.fluidC += (real.fluidC - this.fluidC) * (dtS / FLUID_LAG_S);
    const fluid = this.fluid;
    values.set("fluid_c", fluid?.lost ? OPEN_FLUID_C : Math.round(this.fluidC + (fluid?.offset ?? 0)));
    values.set("clutch_c", Math.round(real.clutchC));
  }
}
