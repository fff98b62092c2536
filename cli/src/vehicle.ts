import type { Unit } from "@gearsense/core/unit";
import {
  Device,
  type DeviceFaults,
  decodeChannel,
  didOf,
  type EcuModel,
  type EcuRoutine,
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
  writeRoutineStatus,
} from "@gearsense/link";
import {
  type LiveDriver,
  LiveVehicle,
  PROFILES,
  type RunningRoutine,
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
  /** learned values to begin with, by the ids of the unit file; those of the vehicle where left out */
  readonly learned?: Readonly<Record<string, number>> | undefined;
}

const DRIVERS: Readonly<Record<LiveDriver, unknown>> = { ...PROFILES, "by-hand": undefined, "as-told": undefined };

export interface RunningVehicle {
  readonly port: number;
  readonly vin: string;
  readonly definition: LinkDefinition;
  /** says something at the wheel, see {@link takeTheWheel} */
  readonly at: (words: string) => string;
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
const OUT_OF_RANGE = 0x31;
const COOLANT_C = 88;
const SECONDS_A_DRIVE = 65_535;

/** Seventeen letters and digits, as none of a real maker begins. */
const vinOf = (seed: number) => `SKRW${String(seed).padStart(13, "0")}`;

/** Routines of the unit's own procedures. A new start forgets how the last one went. */
function routinesOf(unit: Unit, live: LiveVehicle): EcuRoutine[] {
  return (unit.relearn ?? []).flatMap((procedure): EcuRoutine[] => {
    const { machine } = procedure;
    if (machine?.routine === undefined) return [];
    let running: RunningRoutine | undefined;
    return [
      {
        id: Number.parseInt(machine.routine, 16),
        needsSession: machine.kind !== "drive-cycle",
        start: () => {
          const begun = live.startRoutine(procedure);
          if (typeof begun === "number") return begun;
          running = begun;
          return undefined;
        },
        stop: () => running?.stop(),
        result: () =>
          running &&
          writeRoutineStatus({
            state: running.state,
            code: running.code,
            lever: running.lever,
            progressPct: running.progress * 100,
            element: running.element,
          }),
      },
    ];
  });
}

function models(unit: Unit, live: LiveVehicle, definition: LinkDefinition, vin: string): EcuModel[] {
  const largestNm = unit.maxInputTorqueNm;
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
      routines: mine ? routinesOf(unit, live) : [],
      ...(mine
        ? {
            write: (did: number, data: Uint8Array) => {
              const channel = byDid.get(`${address.name} ${did}`);
              const value = channel?.channel.startsWith("adapt_") ? decodeChannel(channel, data) : undefined;
              if (!channel || value === undefined || data.length !== channel.bytes) return OUT_OF_RANGE;
              return live.writeLearned({ [channel.channel.slice("adapt_".length)]: value }) ? undefined : OUT_OF_RANGE;
            },
          }
        : {}),
    };
  });
}

/**
 * Puts a simulated vehicle on a port of this machine: frames as lines, both ways, for whoever listens.
 * @throws UsageError for unknown names, a fault that the unit cannot have, or a port that is taken
 */
export async function startVehicle(o: VehicleOptions): Promise<RunningVehicle> {
  const unit = unitFor(o.unit);
  const driver: LiveDriver = choose("drive", o.drive, DRIVERS);
  const faults: SimulatedFault[] = o.faults.filter((f) => f !== "none").map(readFault);
  let live: LiveVehicle;
  try {
    live = new LiveVehicle({ unit, seed: o.seed, faults, driver, adaptations: o.learned });
  } catch (error) {
    if (error instanceof RangeError) throw new UsageError(error.message);
    throw error;
  }
  const vin = vinOf(o.seed);
  const definition = vehicleDefinition(o.unit);
  const device = new Device(models(unit, live, definition, vin), seededRandom(o.seed ^ 0x6c62272e), o.device);
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
  return { port: served.port, vin, definition, close: served.close, at: (words) => takeTheWheel(live, words) };
}

const RANGES = ["P", "R", "N", "D"] as const;
/**
 * One word at the wheel: "brake on", "brake off", "lever D", "pedal 20". Whoever says it has the wheel from then on.
 * @returns what was done, in words
 * @throws UsageError for anything else
 */
export function takeTheWheel(live: Pick<LiveVehicle, "hands">, words: string): string {
  const [what, how = ""] = words.trim().split(/\s+/);
  const hands = live.hands ?? { range: "D" as const, brake: true, pedal: 0 };
  const range = RANGES.find((r) => r === how.toUpperCase());
  const percent = Number(how);
  if (what === "brake" && (how === "on" || how === "off")) hands.brake = how === "on";
  else if (what === "lever" && range) hands.range = range;
  else if (what === "pedal" && how !== "" && percent >= 0 && percent <= 100) hands.pedal = percent / 100;
  else throw new UsageError(`"${words.trim()}": say brake on, brake off, lever P, R, N or D, or pedal 0 to 100.`);
  live.hands = hands;
  return `${what} ${how}`;
}
