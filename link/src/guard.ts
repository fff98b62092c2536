import { SERVICE } from "./services.ts";

/** Services that only read, and what of them reads. */
const READS: ReadonlyMap<number, (request: Uint8Array) => boolean> = new Map<number, (request: Uint8Array) => boolean>([
  [SERVICE.currentData, () => true],
  [SERVICE.storedCodes, () => true],
  [SERVICE.pendingCodes, () => true],
  [SERVICE.vehicleInformation, () => true],
  [SERVICE.readData, () => true],
  [SERVICE.readCodes, () => true],
  [SERVICE.testerPresent, () => true],
  // back into the session that every unit is in by itself
  [SERVICE.session, (r) => ((r[1] ?? 0) & 0x7f) === 1],
]);

/** Something that is not read was asked of a vehicle that is not the simulated one. */
export class WriteRefused extends Error {}

/**
 * The one place that says what may be sent: to anything but the simulated vehicle only what reads.
 * @throws WriteRefused
 */
export function guardRequest(request: Uint8Array, simulated: boolean): void {
  if (simulated) return;
  const [service = -1] = request;
  if (!READS.get(service)?.(request))
    throw new WriteRefused(
      `Service 0x${service.toString(16).toUpperCase().padStart(2, "0")} changes something in the vehicle. Gearsense only reads from vehicles: use the maker’s own tool for it.`,
    );
}
