import {
  Device,
  type DeviceFaults,
  didOf,
  type EcuModel,
  ENGINE,
  encodeChannel,
  type LinkDefinition,
  type ReadCode,
  SIMULATED_DID,
  SIMULATED_TEXT,
  STATUS,
  serveDevice,
  TRANSMISSION,
  usualDefinition,
} from "@gearsense/link";
import {
  LiveVehicle,
  PROFILES,
  type ProfileName,
  readableChannels,
  type SimulatedFault,
  seededRandom,
} from "@gearsense/simulator";
import { choose, readFault } from "./simulate.ts";
import { unitFor } from "./units.ts";
import { UsageError } from "./usage-error.ts";

export interface VehicleOptions {
  readonly unit: string;
  readonly faults: readonly string[];
  readonly drive: string;
  readonly seed: number;
  readonly port: number;
  /** simulated seconds a second */
  readonly speed: number;
  readonly device: DeviceFaults;
}

export interface RunningVehicle {
  readonly port: number;
  readonly vin: string;
  readonly definition: LinkDefinition;
  readonly close: () => Promise<void>;
}

/** Which identifier of the simulated vehicle holds which channel. @throws UsageError for an unknown unit */
export function vehicleDefinition(unitName: string): LinkDefinition {
  const unit = unitFor(unitName);
  return usualDefinition(`${unit.name}, simulated`, readableChannels(unit));
}

/** The device looks at its time so often, ms; the drive goes on in steps of that too. */
const TICK_MS = 5;
/** A machine that was busy is not caught up with further than this, s: the vehicle stands still meanwhile. */
const MOST_BEHIND_S = 0.5;
const VIN_DID = 0xf190;
const COOLANT_C = 88;
const SECONDS_A_DRIVE = 65_535;

/** Seventeen letters and digits, as none of a real maker begins. */
const vinOf = (seed: number) => `SKRW${String(seed).padStart(13, "0")}`;

function models(live: LiveVehicle, definition: LinkDefinition, largestNm: number, vin: string): EcuModel[] {
  const byDid = new Map(definition.channels.map((c) => [`${c.ecu} ${didOf(c)}`, c]));
  const codes = (): ReadCode[] =>
    live.codes.map((c) => ({ code: c.code, failureType: 0, status: STATUS.failed | STATUS.confirmed }));
  const torquePct = () => ((live.value("engine_torque_nm") ?? 0) / largestNm) * 100;
  const computed: Readonly<Record<string, () => number | undefined>> = {
    coolant_c: () => COOLANT_C,
    supply_v: () => live.supplyV,
    run_time_s: () => Math.min(SECONDS_A_DRIVE, live.timeS),
    reference_torque_nm: () => largestNm,
    torque_pct: torquePct,
    load_pct: () => Math.max(0, torquePct()),
  };
  return [ENGINE, TRANSMISSION].map((address): EcuModel => {
    const mine = address.name === "transmission";
    return {
      address,
      value: (channel) => (computed[channel] ?? (() => live.value(channel)))(),
      data: (did) => {
        if (did === VIN_DID) return new TextEncoder().encode(vin);
        if (did === SIMULATED_DID) return new TextEncoder().encode(SIMULATED_TEXT);
        const channel = byDid.get(`${address.name} ${did}`);
        const value = channel && live.value(channel.channel);
        return channel && value !== undefined ? encodeChannel(channel, value) : undefined;
      },
      codes: () => (mine ? codes() : []),
      freezeFrame: (code) => {
        const stored = mine ? live.codes.find((c) => c.code === code) : undefined;
        return Object.entries(stored?.freezeFrame ?? {}).flatMap(([channel, value]) => {
          const c = definition.channels.find((x) => x.channel === channel);
          return c ? [[didOf(c), encodeChannel(c, value)] as const] : [];
        });
      },
      clearCodes: () => mine && live.clearCodes(),
      vin,
      calibration: mine ? "SK-TCM-0001" : "SK-ECM-0001",
      routines: [],
    };
  });
}

/**
 * Puts a simulated vehicle on a port of this machine: frames as lines, both ways, for whoever listens.
 * @throws UsageError for unknown names, a fault that the unit cannot have, or a port that is taken
 */
export async function startVehicle(o: VehicleOptions): Promise<RunningVehicle> {
  const unit = unitFor(o.unit);
  const profile: ProfileName = choose("drive", o.drive, PROFILES);
  const faults: SimulatedFault[] = o.faults.filter((f) => f !== "none").map(readFault);
  let live: LiveVehicle;
  try {
    live = new LiveVehicle({ unit, seed: o.seed, faults, profile });
  } catch (error) {
    if (error instanceof RangeError) throw new UsageError(error.message);
    throw error;
  }
  const vin = vinOf(o.seed);
  const definition = vehicleDefinition(o.unit);
  const device = new Device(
    models(live, definition, unit.maxInputTorqueNm, vin),
    seededRandom(o.seed ^ 0x6c62272e),
    o.device,
  );
  let last = performance.now();
  const served = await serveDevice(device, {
    port: o.port,
    everyMs: TICK_MS,
    // lines bear the time of the drive: at four times its speed a recording is still one of the drive
    lineMs: () => live.timeS * 1000,
    before: (nowMs) => {
      live.advance(Math.min(MOST_BEHIND_S, (nowMs - last) / 1000) * o.speed);
      last = nowMs;
    },
  }).catch((e: NodeJS.ErrnoException) => {
    throw e.code === "EADDRINUSE" ? new UsageError(`Port ${o.port} is taken: name another with --port.`) : e;
  });
  return { port: served.port, vin, definition, close: served.close };
}
