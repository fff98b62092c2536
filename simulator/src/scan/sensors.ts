import type { Unit } from "@gearsense/core/unit";
import type { SensorMakeup } from "../build.ts";
import type { Health, SensorHealth } from "../faults/health.ts";
import type { Powertrain } from "../physics/powertrain.ts";
import { normal } from "../random.ts";

/** what an open temperature sensor reads */
const OPEN_FLUID_C = -50;

interface Source {
  readonly powertrain: Powertrain;
  readonly real: {
    readonly engineRpm: number;
    readonly outputRpm: number;
    /** by wheels of the radius in the unit file */
    readonly shownKmh: number;
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
  private readonly makeup: SensorMakeup;
  private fluidC = Number.NaN;
  /** of the smoothed speeds, by channel */
  private readonly smooth = new Map<string, number>();

  constructor(unit: Unit, health: Health, makeup: SensorMakeup, random: () => number) {
    this.makeup = makeup;
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
    const { makeup } = this;
    const crankRpm = this.smoothed("engine_rpm", real.engineRpm, dtS);
    values.set("engine_rpm", Math.max(0, Math.round(crankRpm + normal(random, makeup.crankNoiseRpm))));
    values.set("vehicle_kmh", Math.round(Math.round(real.shownKmh / makeup.kmhStep) * makeup.kmhStep * 10) / 10);
    for (const { channel, health } of this.speeds) {
      const node = from.nodeOf(channel);
      if (!node) continue;
      const rpm = this.smoothed(channel, Math.abs(from.powertrain.nodeRpm(node)), dtS);
      const noise = normal(random, makeup.speedNoiseRpm + health.noise);
      values.set(
        channel,
        health.lost || rpm < makeup.slowestRpm ? 0 : Math.max(0, Math.round(rpm + health.offset + noise)),
      );
    }
    if (Number.isNaN(this.fluidC)) this.fluidC = real.fluidC;
    this.fluidC += (real.fluidC - this.fluidC) * (dtS / makeup.fluidLagS);
    const fluid = this.fluid;
    values.set("fluid_c", fluid?.lost ? OPEN_FLUID_C : Math.round(this.fluidC + (fluid?.offset ?? 0)));
    values.set("clutch_c", Math.round(real.clutchC));
  }

  private smoothed(channel: string, rpm: number, dtS: number): number {
    const before = this.smooth.get(channel) ?? rpm;
    const now = before + (rpm - before) * (dtS / (dtS + this.makeup.smoothingS));
    this.smooth.set(channel, now);
    return now;
  }
}
