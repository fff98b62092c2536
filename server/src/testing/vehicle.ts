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
  type ServedDevice,
  SIMULATED_DID,
  SIMULATED_TEXT,
  serveDevice,
  TRANSMISSION,
  usualDefinition,
} from "@gearsense/link";
import { readableChannels } from "@gearsense/simulator";

export interface VehicleOnLine extends ServedDevice {
  /** every value that was told, by channel, in order */
  readonly told: ReadonlyMap<string, number[]>;
}

interface OnLine {
  readonly vin?: string;
  readonly faults?: DeviceFaults;
  /** says of itself that it is simulated, tells these values, takes written ones into them, and has these routines; no code */
  readonly simulated?: { readonly values: Record<string, number>; readonly routines: readonly EcuRoutine[] };
}

/**
 * A vehicle with such a unit and two control units on a port, whose channels count up with every answer where nothing else is said;
 * what it tells is written down.
 */
export async function startVehicleOnLine(
  unit: Unit,
  { vin = "SKRW0000000000042", faults = {}, simulated }: OnLine = {},
): Promise<VehicleOnLine> {
  const definition = usualDefinition("on the line", readableChannels(unit));
  const told = new Map<string, number[]>();
  const model = (address: typeof ENGINE): EcuModel => ({
    address,
    value: (channel) => simulated?.values[channel],
    data: (did) => {
      if (did === 0xf190) return new TextEncoder().encode(vin);
      if (did === SIMULATED_DID && simulated) return new TextEncoder().encode(SIMULATED_TEXT);
      const c = definition.channels.find((x) => x.ecu === address.name && didOf(x) === did);
      if (!c) return undefined;
      const set = simulated?.values[c.channel];
      if (simulated) return set === undefined ? undefined : encodeChannel(c, set);
      const list = told.get(c.channel) ?? [];
      told.set(c.channel, list);
      list.push(list.length);
      return encodeChannel(c, list.length - 1);
    },
    codes: () =>
      address.name === "transmission" && !simulated ? [{ code: "P0741", failureType: 0, status: 0x08 }] : [],
    freezeFrame: () => [],
    clearCodes: () => false,
    vin,
    calibration: "SK-0001",
    routines: address.name === "transmission" ? (simulated?.routines ?? []) : [],
    ...(simulated
      ? {
          write: (did: number, data: Uint8Array) => {
            const c = definition.channels.find((x) => x.ecu === address.name && didOf(x) === did);
            const value = c && decodeChannel(c, data);
            if (!c || value === undefined) return 0x31;
            simulated.values[c.channel] = value;
            return undefined;
          },
        }
      : {}),
  });
  const device = new Device([model(ENGINE), model(TRANSMISSION)], () => 0.5, faults);
  const served = await serveDevice(device, { port: 0, everyMs: 2, lineMs: () => performance.now() });
  return { ...served, told };
}

/** Control units that count what they have told of each identifier of a definition. @param lineMs - time that their lines bear */
export async function serveCounting(
  definition: LinkDefinition,
  lineMs: () => number,
): Promise<ServedDevice & { readonly told: ReadonlyMap<number, number> }> {
  const told = new Map<number, number>();
  const model = (address: typeof ENGINE): EcuModel => ({
    address,
    value: () => undefined,
    data: (did) => {
      const c = definition.channels.find((x) => x.ecu === address.name && didOf(x) === did);
      if (!c) return undefined;
      const n = (told.get(did) ?? 0) + 1;
      told.set(did, n);
      return encodeChannel(c, n % 1000);
    },
    codes: () => [],
    freezeFrame: () => [],
    clearCodes: () => undefined,
    calibration: "SK-0001",
    routines: [],
  });
  const device = new Device([model(ENGINE), model(TRANSMISSION)], () => 0.5);
  return { ...(await serveDevice(device, { port: 0, everyMs: 2, lineMs })), told };
}
