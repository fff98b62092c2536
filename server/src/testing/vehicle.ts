import type { Unit } from "@gearsense/core/unit";
import {
  Device,
  type DeviceFaults,
  didOf,
  type EcuModel,
  ENGINE,
  encodeChannel,
  type ServedDevice,
  serveDevice,
  TRANSMISSION,
  usualDefinition,
} from "@gearsense/link";
import { readableChannels } from "@gearsense/simulator";

export interface VehicleOnLine extends ServedDevice {
  /** every value that was told, by channel, in order */
  readonly told: ReadonlyMap<string, number[]>;
}

/** A vehicle with such a unit and two control units on a port, whose channels count up with every answer; what it tells is written down. */
export async function startVehicleOnLine(
  unit: Unit,
  { vin = "SKRW0000000000042", faults = {} }: { readonly vin?: string; readonly faults?: DeviceFaults } = {},
): Promise<VehicleOnLine> {
  const definition = usualDefinition("on the line", readableChannels(unit));
  const told = new Map<string, number[]>();
  const model = (address: typeof ENGINE): EcuModel => ({
    address,
    value: () => undefined,
    data: (did) => {
      if (did === 0xf190) return new TextEncoder().encode(vin);
      const c = definition.channels.find((x) => x.ecu === address.name && didOf(x) === did);
      if (!c) return undefined;
      const list = told.get(c.channel) ?? [];
      told.set(c.channel, list);
      list.push(list.length);
      return encodeChannel(c, list.length - 1);
    },
    codes: () => (address.name === "transmission" ? [{ code: "P0741", failureType: 0, status: 0x08 }] : []),
    freezeFrame: () => [],
    clearCodes: () => false,
    vin,
    calibration: "SK-0001",
    routines: [],
  });
  const device = new Device([model(ENGINE), model(TRANSMISSION)], () => 0.5, faults);
  const served = await serveDevice(device, { port: 0, everyMs: 2, lineMs: () => performance.now() });
  return { ...served, told };
}
