import type { Unit } from "@gearsense/core/unit";
import { type Build, drawBuild, strayCodes } from "./build.ts";
import type { StoredCode } from "./control/monitors.ts";
import type { SimulatedFault } from "./faults/fault.ts";
import { packsOf } from "./physics/hydraulics.ts";
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
  /** columns to record, by canonical name; where left out, {@link usualChannels} */
  readonly channels?: readonly string[] | undefined;
  /** rows a second; where left out, what the scan tool manages with so many channels */
  readonly rateHz?: number | undefined;
  /** that of the profile where left out */
  readonly startFluidC?: number | undefined;
  /** learned on earlier drives: {@link DriveResult.adaptations} of one of them */
  readonly adaptations?: Readonly<Record<string, number>> | undefined;
  /** steps of learning against usual driving, for a drive that stands for many; 1 where left out */
  readonly learning?: number | undefined;
  /** which vehicle it is: another drive of the same one has the same; that of the drive where left out */
  readonly vehicleSeed?: number | undefined;
  /** family that the vehicle is drawn from, see {@link drawBuild}; 0 where left out */
  readonly world?: number | undefined;
  /** clearance of packs as they were built, mm, by element; where left out, what the unit file sets them to */
  readonly clearanceMm?: Readonly<Record<string, number>> | undefined;
  /** called once for each simulated second; `true` ends the drive there */
  readonly shouldStop?: ((doneS: number) => boolean) | undefined;
}

/** What a drive leaves behind besides its rows. */
export interface DriveResult {
  readonly rateHz: number;
  readonly truth: Truth;
  /** codes with freeze frame, as a scan tool reads them after the drive */
  readonly codes: readonly StoredCode[];
  /** adaptation values before and after */
  readonly adaptations: { readonly before: Record<string, number>; readonly after: Record<string, number> };
  readonly vehicle: SimulatedVehicle;
}

export interface SimulatedLog extends DriveResult {
  readonly columns: ReadonlyMap<string, Float64Array>;
}

/** Readings a second that a middling scan tool gets through one diagnostic channel. */
const READINGS_PER_S = 420;
const FASTEST_HZ = 50;
/** reading and writing of rows takes the controller's tick */
const HIGHEST_HZ = 1 / TICK_S;
const RANGE_CODE = { P: 1, R: 2, N: 3, D: 4 } as const;
/** of a dual clutch its clutches' own and one more: its pressures are read instead of the rest */
const SOLENOID_COLUMNS = { planetary: 5, dual: 3 } as const;
const LEARNED_EVERY_S = 10;

/** Rows a second that a scan tool manages with so many channels. */
export const pollingRateHz = (channels: number, readingsPerS = READINGS_PER_S): number =>
  Math.max(1, Math.min(FASTEST_HZ, Math.floor(readingsPerS / Math.max(1, channels))));

export type Reader = (v: SimulatedVehicle) => number;

/** What a scan tool records of a unit when nobody chooses, in the order of its columns. */
export const usualChannels = (unit: Unit): string[] => channelsOf(unit).map(([id]) => id);
/** Learned values that it can record besides: they change slowly and are asked for seldom. */
export const learnedChannels = (unit: Unit): string[] => (unit.adaptations ?? []).map((a) => `adapt_${a.id}`);

function learnedReaders(unit: Unit): [string, Reader][] {
  let atS = Number.NEGATIVE_INFINITY;
  let values: Record<string, number> = {};
  return (unit.adaptations ?? []).map(({ id }): [string, Reader] => [
    `adapt_${id}`,
    (v) => {
      if (v.timeS - atS >= LEARNED_EVERY_S) {
        atS = v.timeS;
        values = v.controller.adaptation.read(unit, v.hydraulics.packs);
      }
      return atS === v.timeS ? (values[id] ?? Number.NaN) : Number.NaN;
    },
  ]);
}

/** Of the supply and of each dual clutch. */
function measuredPressures(unit: Unit): [string, Reader][] {
  const clutches = unit.elements.filter((e) => e.kind === "dual-clutch").map((e) => e.id);
  return [
    ["line_pressure_measured_kpa", (v) => Math.round(v.readings.linePressureKpa)],
    ...clutches.map((id): [string, Reader] => [
      `${id.toLowerCase()}_kpa`,
      (v) => Math.round(v.hydraulics.pressureKpa[v.hydraulics.packs.findIndex((p) => p.id === id)] as number),
    ]),
  ];
}

function channelsOf(unit: Unit): [string, Reader][] {
  const planetary = unit.kind === "planetary";
  const sensor = (id: string): [string, Reader] => [id, (v) => v.sensors.value(id)];
  const speeds = unit.sensors
    .filter((s) => /^(turbine|k1|k2)_rpm$/.test(s.channel) || s.shaft !== undefined)
    .map((s) => s.channel);
  const solenoids = unit.solenoids
    .filter((s) => s.feeds !== "converter-clutch" && s.feeds !== "line-pressure")
    .slice(0, planetary ? SOLENOID_COLUMNS.planetary : SOLENOID_COLUMNS.dual);
  return [
    sensor("engine_rpm"),
    ...speeds.map(sensor),
    sensor("output_rpm"),
    sensor("vehicle_kmh"),
    ["gear_commanded", (v) => v.commands.gear?.code ?? 0],
    ["range", (v) => (v.readings.range === undefined ? 0 : RANGE_CODE[v.readings.range])],
    ["pedal_pct", (v) => Math.round(v.readings.pedal * 250) / 2.5],
    ["throttle_pct", (v) => Math.round((8 + v.readings.pedal * 80) * 10) / 10],
    ["engine_torque_nm", (v) => Math.round(v.readings.engineNm)],
    ["brake_on", (v) => Number(v.readings.brake)],
    ...(planetary ? [["tcc_command", (v) => Math.round(v.converterDutyPct)] as [string, Reader]] : []),
    ["line_pressure_kpa", (v) => Math.round(v.commands.lineKpa)],
    // a planetary unit has no pressure sensor
    ...(planetary ? [] : measuredPressures(unit)),
    sensor("fluid_c"),
    ...(planetary ? [] : [sensor("clutch_c")]),
    ...solenoids.map((s): [string, Reader] => [s.id, (v) => Math.round(v.solenoidDuty(s.id) * 100)]),
  ];
}

/** Every channel that can be read of a vehicle, learned values included, with how. */
export const readersOf = (unit: Unit): [string, Reader][] => [...channelsOf(unit), ...learnedNow(unit)];

/** Learned values as they stand now. */
const learnedNow = (unit: Unit): [string, Reader][] =>
  (unit.adaptations ?? []).map(({ id }): [string, Reader] => [
    `adapt_${id}`,
    (v) => v.controller.adaptation.read(unit, v.hydraulics.packs)[id] ?? Number.NaN,
  ]);

function chosenChannels({ unit, channels }: SimulationInput): [string, Reader][] {
  const usual = channelsOf(unit);
  if (!channels) return usual;
  const all = [...usual, ...learnedReaders(unit)];
  const known = all.map(([id]) => id);
  const wrong = channels.filter((c) => !known.includes(c));
  if (wrong.length > 0 || channels.length === 0)
    throw new RangeError(`${unit.name} has no channel "${wrong[0] ?? ""}". Choose from: ${known.join(", ")}.`);
  return all.filter(([id]) => channels.includes(id));
}

/** A vehicle whose packs were set to other clearances: a piston that has further to go takes the longer to fill. */
export function asBuilt(unit: Unit, build: Build, clearanceMm: Readonly<Record<string, number>> = {}): Build {
  const share = packsOf(unit).map(({ id }) => {
    const bench = unit.elements.find((e) => e.id === id)?.bench;
    const built = clearanceMm[id];
    if (built === undefined || !bench) return 1;
    return built / (bench.targetMm ?? (bench.clearanceMm[0] + bench.clearanceMm[1]) / 2);
  });
  return { ...build, packFill: build.packFill.map((f, i) => f * (share[i] as number)) };
}

/**
 * Drives and hands out each row as the scan tool would write it: memory does not grow with the drive.
 * @param onStart - told the columns, rate and number of rows before the first
 * @param onRow - values in the order of the columns; the array is used again for the next row
 * @throws RangeError as {@link simulateDrive}
 */
export function runDrive(
  input: SimulationInput,
  onStart: (ids: readonly string[], rateHz: number, rows: number) => void,
  onRow: (timeS: number, values: Float64Array) => void,
): DriveResult {
  const { unit, seed, durationS } = input;
  const phases: readonly Phase[] = typeof input.profile === "string" ? PROFILES[input.profile] : input.profile;
  const channels = chosenChannels(input);
  const build = asBuilt(
    unit,
    drawBuild(packsOf(unit).length, input.vehicleSeed ?? seed, input.world),
    input.clearanceMm,
  );
  const polled = channels.filter(([id]) => !id.startsWith("adapt_")).length;
  const rateHz = input.rateHz ?? pollingRateHz(polled, build.readingsPerS);
  if (!(rateHz > 0 && rateHz <= HIGHEST_HZ))
    throw new RangeError(`A rate of ${rateHz} Hz is not in 0 to ${HIGHEST_HZ}.`);
  const vehicle = new SimulatedVehicle({
    unit,
    seed,
    build,
    faults: input.faults,
    adaptations: input.adaptations,
    learning: input.learning,
    startFluidC: input.startFluidC ?? (typeof input.profile === "string" ? startFluidC(input.profile) : 55),
  });
  const driver = new Driver(phases, seededRandom(seed ^ 0x27d4eb2f));
  const recorder = new TruthRecorder(vehicle, seed, strayCodes(unit, input.vehicleSeed ?? seed));
  const rows = Math.floor(durationS * rateHz);
  onStart(
    channels.map(([id]) => id),
    rateHz,
    rows,
  );
  const values = new Float64Array(channels.length);
  const { massKg, dragNs2PerM2, rolling } = vehicle.powertrain.vehicle;
  const before = vehicle.controller.adaptation.read(unit, vehicle.hydraulics.packs);
  const ticks = Math.round(durationS / TICK_S);
  const perSecond = Math.round(1 / TICK_S);
  let row = 0;
  for (let n = 0; n < ticks; n++) {
    if (n % perSecond === 0 && input.shouldStop?.(n * TICK_S)) break;
    const fullPedalN = vehicle.fullPedalN;
    vehicle.tick(driver.tick(TICK_S, vehicle.real.vehicleKmh, { massKg, dragNs2PerM2, rolling, fullPedalN }));
    recorder.tick();
    while (row < rows && row / rateHz <= n * TICK_S + 1e-9) {
      for (let c = 0; c < channels.length; c++) values[c] = (channels[c] as [string, Reader])[1](vehicle);
      onRow(Math.round((row / rateHz) * 1000) / 1000, values);
      row++;
    }
  }
  return {
    rateHz,
    truth: recorder.truth,
    codes: vehicle.codes,
    adaptations: { before, after: vehicle.controller.adaptation.read(unit, vehicle.hydraulics.packs) },
    vehicle,
  };
}

/**
 * A drive as a scan tool records it. The vehicle is integrated at 1 kHz; rows are taken at the tool's rate.
 * Pure: the same input gives the same log, bit for bit.
 * @throws RangeError for an unknown fault or channel, a fault that the unit cannot have, or a unit that cannot be integrated
 */
export function simulateDrive(input: SimulationInput): SimulatedLog {
  const columns = new Map<string, Float64Array>();
  const written: Float64Array[] = [];
  let time = new Float64Array(0);
  let row = 0;
  const result = runDrive(
    input,
    (ids, _rateHz, rows) => {
      time = new Float64Array(rows);
      columns.set("time_s", time);
      for (const id of ids) {
        const values = new Float64Array(rows);
        columns.set(id, values);
        written.push(values);
      }
    },
    (timeS, values) => {
      time[row] = timeS;
      for (let c = 0; c < written.length; c++) (written[c] as Float64Array)[row] = values[c] as number;
      row++;
    },
  );
  const kept = row < time.length ? new Map([...columns].map(([id, v]) => [id, v.subarray(0, row)])) : columns;
  return { ...result, columns: kept };
}

/** The truth file that goes with a log, see docs/formats.md. What never came about is null. */
export const truthFile = ({ truth, adaptations, rateHz }: DriveResult) => ({
  format: "gearsense-truth",
  version: 1,
  rateHz,
  ...truth,
  adaptations,
});
