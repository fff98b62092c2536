import type { Unit } from "@gearsense/core/unit";
import type { StoredCode } from "./control/monitors.ts";
import type { SimulatedFault } from "./faults/fault.ts";
import { seededRandom } from "./random.ts";
import { Driver } from "./road/driver.ts";
import { type Phase, PROFILES, type ProfileName, startFluidC } from "./road/profiles.ts";
import { type Truth, TruthRecorder } from "./truth.ts";
import { SimulatedVehicle, TICK_S } from "./vehicle.ts";

export interface SimulationInput {
  readonly unit: Unit;
  readonly seed: number;
  readonly durationS: number;
  readonly profile: ProfileName | readonly Phase[];
  readonly faults: readonly SimulatedFault[];
  /** rows a second; where left out, what the scan tool manages with so many channels */
  readonly rateHz?: number;
  /** that of the profile where left out */
  readonly startFluidC?: number;
  /** called once for each simulated second; `true` ends the drive there */
  readonly shouldStop?: (doneS: number) => boolean;
}

export interface SimulatedLog {
  readonly columns: ReadonlyMap<string, Float64Array>;
  readonly rateHz: number;
  readonly truth: Truth;
  /** codes with freeze frame, as a scan tool reads them after the drive */
  readonly codes: readonly StoredCode[];
  /** adaptation values before and after */
  readonly adaptations: { readonly before: Record<string, number>; readonly after: Record<string, number> };
  readonly vehicle: SimulatedVehicle;
}

/** Readings a second that a scan tool gets through one diagnostic channel. */
const READINGS_PER_S = 420;
const FASTEST_HZ = 50;
const RANGE_CODE = { P: 1, R: 2, N: 3, D: 4 } as const;
const SOLENOID_COLUMNS = 5;

/** Rows a second that a scan tool manages with so many channels. */
export const pollingRateHz = (channels: number): number =>
  Math.max(1, Math.min(FASTEST_HZ, Math.floor(READINGS_PER_S / Math.max(1, channels))));

type Reader = (v: SimulatedVehicle) => number;

/** What a scan tool records of a unit, in the order of its columns. */
function channelsOf(unit: Unit): [string, Reader][] {
  const planetary = unit.kind === "planetary";
  const sensor = (id: string): [string, Reader] => [id, (v) => v.sensors.value(id)];
  const solenoids = unit.solenoids
    .filter((s) => s.feeds !== "converter-clutch" && s.feeds !== "line-pressure")
    .slice(0, SOLENOID_COLUMNS);
  return [
    sensor("engine_rpm"),
    ...(planetary ? [sensor("turbine_rpm")] : [sensor("k1_rpm"), sensor("k2_rpm")]),
    sensor("output_rpm"),
    sensor("vehicle_kmh"),
    ["gear_commanded", (v) => v.commands.gear?.code ?? 0],
    ["range", (v) => (v.readings.range === undefined ? 0 : RANGE_CODE[v.readings.range])],
    ["pedal_pct", (v) => Math.round(v.readings.pedal * 250) / 2.5],
    ["throttle_pct", (v) => Math.round((8 + v.readings.pedal * 80) * 10) / 10],
    ["engine_torque_nm", (v) => Math.round(v.readings.engineNm)],
    ["brake_on", (v) => Number(v.readings.brake)],
    ...(planetary ? [["tcc_command", (v) => Math.round(v.converterDutyPct)] as [string, Reader]] : []),
    // a planetary unit has no pressure sensor: what is shown is the command
    ["line_pressure_kpa", (v) => Math.round(planetary ? v.commands.lineKpa : v.readings.linePressureKpa)],
    sensor("fluid_c"),
    ...(planetary ? [] : [sensor("clutch_c")]),
    ...solenoids.map((s): [string, Reader] => [s.id, (v) => Math.round(v.solenoidDuty(s.id) * 100)]),
  ];
}

/**
 * A drive as a scan tool records it. The vehicle is integrated at 1 kHz; rows are taken at the tool's rate.
 * Pure: the same input gives the same log, bit for bit.
 * @throws RangeError for an unknown fault, one that the unit cannot have, or a unit that cannot be integrated
 */
export function simulateDrive(input: SimulationInput): SimulatedLog {
  const { unit, seed, durationS } = input;
  const phases: readonly Phase[] = typeof input.profile === "string" ? PROFILES[input.profile] : input.profile;
  const vehicle = new SimulatedVehicle({
    unit,
    seed,
    faults: input.faults,
    startFluidC: input.startFluidC ?? (typeof input.profile === "string" ? startFluidC(input.profile) : 55),
  });
  const driver = new Driver(phases, seededRandom(seed ^ 0x27d4eb2f));
  const recorder = new TruthRecorder(vehicle, seed);
  const channels = channelsOf(unit);
  const rateHz = input.rateHz ?? pollingRateHz(channels.length);
  const rows = Math.floor(durationS * rateHz);
  const time = new Float64Array(rows);
  const columns = new Map<string, Float64Array>([["time_s", time]]);
  const writers = channels.map(([id, read]) => {
    const values = new Float64Array(rows);
    columns.set(id, values);
    return { values, read };
  });
  const { massKg, dragNs2PerM2, rolling } = vehicle.powertrain.vehicle;
  const before = vehicle.controller.adaptation.read(unit, vehicle.hydraulics.packs);
  const ticks = Math.round(durationS / TICK_S);
  const perSecond = Math.round(1 / TICK_S);
  let row = 0;
  for (let n = 0; n < ticks; n++) {
    if (n % perSecond === 0 && input.shouldStop?.(n * TICK_S)) break;
    const feet = driver.tick(TICK_S, vehicle.real.vehicleKmh, {
      massKg,
      dragNs2PerM2,
      rolling,
      fullPedalN: vehicle.fullPedalN,
    });
    vehicle.tick(feet);
    recorder.tick();
    while (row < rows && row / rateHz <= n * TICK_S + 1e-9) {
      time[row] = Math.round((row / rateHz) * 1000) / 1000;
      for (const { values, read } of writers) values[row] = read(vehicle);
      row++;
    }
  }
  const kept = row < rows ? new Map([...columns].map(([id, v]) => [id, v.subarray(0, row)])) : columns;
  return {
    columns: kept,
    rateHz,
    truth: recorder.truth,
    codes: vehicle.codes,
    adaptations: { before, after: vehicle.controller.adaptation.read(unit, vehicle.hydraulics.packs) },
    vehicle,
  };
}
