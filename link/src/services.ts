/** Services of ISO 14229 and modes of SAE J1979 that are spoken here. */
export const SERVICE = {
  currentData: 0x01,
  storedCodes: 0x03,
  clearEmissionCodes: 0x04,
  pendingCodes: 0x07,
  vehicleInformation: 0x09,
  session: 0x10,
  clearCodes: 0x14,
  readCodes: 0x19,
  readData: 0x22,
  security: 0x27,
  writeData: 0x2e,
  routine: 0x31,
  testerPresent: 0x3e,
} as const;

export const NEGATIVE = 0x7f;
const POSITIVE_OFFSET = 0x40;

/** Why a request is refused, ISO 14229-1 annex A. */
export const REFUSAL = {
  general: 0x10,
  serviceNotSupported: 0x11,
  subFunctionNotSupported: 0x12,
  wrongLength: 0x13,
  busy: 0x21,
  conditionsNotCorrect: 0x22,
  sequenceError: 0x24,
  outOfRange: 0x31,
  accessDenied: 0x33,
  pending: 0x78,
  subFunctionNotInSession: 0x7e,
  serviceNotInSession: 0x7f,
  engineNotRunning: 0x84,
  tooHot: 0x86,
  tooCold: 0x87,
  tooFast: 0x88,
  brakeOpen: 0x8f,
  notInPark: 0x90,
  lowVoltage: 0x93,
} as const;

const REFUSAL_WORDS: Readonly<Record<number, string>> = {
  [REFUSAL.general]: "refused, without a reason",
  [REFUSAL.serviceNotSupported]: "it does not know this service",
  [REFUSAL.subFunctionNotSupported]: "it does not know this part of the service",
  [REFUSAL.wrongLength]: "the request has the wrong length",
  [REFUSAL.busy]: "it is busy; ask again",
  [REFUSAL.conditionsNotCorrect]: "the conditions for it are not met",
  [REFUSAL.sequenceError]: "something has to be asked for before it",
  [REFUSAL.outOfRange]: "it has no such value",
  [REFUSAL.accessDenied]: "it is locked",
  [REFUSAL.pending]: "it needs more time",
  [REFUSAL.subFunctionNotInSession]: "this part of the service is not offered in this session",
  [REFUSAL.serviceNotInSession]: "this service is not offered in this session",
  [REFUSAL.engineNotRunning]: "the engine is not running",
  [REFUSAL.tooHot]: "it is too hot",
  [REFUSAL.tooCold]: "it is too cold",
  [REFUSAL.tooFast]: "the vehicle is not standing",
  [REFUSAL.brakeOpen]: "the brake is not pressed",
  [REFUSAL.notInPark]: "the lever is not in P",
  [REFUSAL.lowVoltage]: "the supply is too low",
};
export const refusalWords = (code: number): string =>
  REFUSAL_WORDS[code] ?? `refused with 0x${code.toString(16).toUpperCase().padStart(2, "0")}`;

export type Response =
  | { readonly kind: "positive"; readonly data: Uint8Array }
  | { readonly kind: "pending" }
  | { readonly kind: "refused"; readonly code: number }
  /** of another request, or of nothing that the standards have */
  | { readonly kind: "stray" };

/** What a message is to a request. @param request - at least one byte */
export function readResponse(request: Uint8Array, message: Uint8Array): Response {
  const [service = -1, sub] = request;
  const [head] = message;
  if (head === NEGATIVE) {
    if (message.length < 3 || message[1] !== service) return { kind: "stray" };
    const code = message[2] as number;
    return code === REFUSAL.pending ? { kind: "pending" } : { kind: "refused", code };
  }
  if (head !== service + POSITIVE_OFFSET) return { kind: "stray" };
  // the echo of what was asked tells this answer from a late one of the same service
  const width = valueIdBytes(service);
  if (width > 0) {
    if (!asksFor(request, message, width)) return { kind: "stray" };
  } else {
    const echoed = echoOf(service);
    for (let i = 1; i <= echoed; i++)
      if (message[i] !== (i === 1 ? (sub as number) & ECHO_MASK(service) : request[i])) return { kind: "stray" };
  }
  return { kind: "positive", data: message.slice(1) };
}

/** Bytes that name a value where several can be asked for at once; 0: the service has no such thing. */
const valueIdBytes = (service: number): number =>
  service === SERVICE.readData ? 2 : service === SERVICE.currentData ? 1 : 0;

/** Of several values that are asked for, the ones that a control unit has are answered: the first of them need not be the first asked. */
function asksFor(request: Uint8Array, message: Uint8Array, width: number): boolean {
  if (message.length < 1 + width) return false;
  for (let at = 1; at + width <= request.length; at += width)
    if (request.subarray(at, at + width).every((b, i) => b === message[1 + i])) return true;
  return false;
}

/** The highest bit of a sub-function asks for no answer and is not echoed. */
const ECHO_MASK = (service: number): number =>
  service === SERVICE.session ||
  service === SERVICE.testerPresent ||
  service === SERVICE.routine ||
  service === SERVICE.readCodes
    ? 0x7f
    : 0xff;

/** Bytes of the request that come back behind the head of its answer. */
function echoOf(service: number): number {
  switch (service) {
    case SERVICE.vehicleInformation:
    case SERVICE.session:
    case SERVICE.testerPresent:
    case SERVICE.readCodes:
      return 1;
    case SERVICE.writeData:
      return 2;
    case SERVICE.routine:
      return 3;
    default:
      return 0;
  }
}

const LETTERS = ["P", "C", "B", "U"] as const;

/** A trouble code out of its two bytes, SAE J2012: 0x0730 is P0730, 0xC100 is U0100. */
export function codeOf(high: number, low: number): string {
  const digits = (((high & 0x3f) << 8) | low).toString(16).toUpperCase().padStart(4, "0");
  return `${LETTERS[high >> 6]}${digits}`;
}

/** The two bytes of a code. @throws RangeError for what isn’t a code */
export function codeBytes(code: string): [number, number] {
  const m = /^([PCBU])([0-3][0-9A-F]{3})$/.exec(code);
  if (!m) throw new RangeError(`"${code}" isn’t a trouble code`);
  const number = Number.parseInt(m[2] as string, 16);
  return [(LETTERS.indexOf(m[1] as (typeof LETTERS)[number]) << 6) | (number >> 8), number & 0xff];
}

/** Codes of an answer to mode 03 or 07: the number of codes, then two bytes each. @returns undefined when it is cut short */
export function emissionCodes(data: Uint8Array): string[] | undefined {
  const [count = 0] = data;
  if (data.length < 1 + 2 * count) return undefined;
  return Array.from({ length: count }, (_, i) => codeOf(data[1 + 2 * i] as number, data[2 + 2 * i] as number));
}

/** Status bits of a code, ISO 14229-1 annex D. */
export const STATUS = { failed: 0x01, pending: 0x04, confirmed: 0x08, warningLamp: 0x80 } as const;

export interface ReadCode {
  readonly code: string;
  readonly failureType: number;
  readonly status: number;
}

/** Codes of an answer to 19 02: status mask, then code (3 bytes) and status each. @returns undefined when it is cut short */
export function statusCodes(data: Uint8Array): ReadCode[] | undefined {
  // sub-function and mask of what the unit knows
  const list = data.subarray(2);
  if (data.length < 2 || list.length % 4 !== 0) return undefined;
  return Array.from({ length: list.length / 4 }, (_, i) => ({
    code: codeOf(list[4 * i] as number, list[4 * i + 1] as number),
    failureType: list[4 * i + 2] as number,
    status: list[4 * i + 3] as number,
  }));
}

/** A value of an answer to mode 01, in its unit; formulas of SAE J1979-DA. */
export interface Pid {
  readonly pid: number;
  readonly channel: string;
  readonly bytes: number;
  readonly read: (b: Uint8Array) => number;
  readonly write: (value: number) => number[];
}

const clampByte = (x: number, most = 0xff) => Math.min(most, Math.max(0, Math.round(x)));
const two = (x: number): number[] => {
  const n = clampByte(x, 0xffff);
  return [n >> 8, n & 0xff];
};
const word = (b: Uint8Array): number => ((b[0] as number) << 8) | (b[1] as number);

export const PIDS: readonly Pid[] = [
  {
    pid: 0x04,
    channel: "load_pct",
    bytes: 1,
    read: (b) => ((b[0] as number) * 100) / 255,
    write: (v) => [clampByte((v * 255) / 100)],
  },
  { pid: 0x05, channel: "coolant_c", bytes: 1, read: (b) => (b[0] as number) - 40, write: (v) => [clampByte(v + 40)] },
  { pid: 0x0c, channel: "engine_rpm", bytes: 2, read: (b) => word(b) / 4, write: (v) => two(v * 4) },
  { pid: 0x0d, channel: "vehicle_kmh", bytes: 1, read: (b) => b[0] as number, write: (v) => [clampByte(v)] },
  {
    pid: 0x11,
    channel: "throttle_pct",
    bytes: 1,
    read: (b) => ((b[0] as number) * 100) / 255,
    write: (v) => [clampByte((v * 255) / 100)],
  },
  { pid: 0x1f, channel: "run_time_s", bytes: 2, read: word, write: two },
  { pid: 0x42, channel: "supply_v", bytes: 2, read: (b) => word(b) / 1000, write: (v) => two(v * 1000) },
  {
    pid: 0x49,
    channel: "pedal_pct",
    bytes: 1,
    read: (b) => ((b[0] as number) * 100) / 255,
    write: (v) => [clampByte((v * 255) / 100)],
  },
  {
    pid: 0x62,
    channel: "torque_pct",
    bytes: 1,
    read: (b) => (b[0] as number) - 125,
    write: (v) => [clampByte(v + 125)],
  },
  { pid: 0x63, channel: "reference_torque_nm", bytes: 2, read: word, write: two },
];

/** Bit mask of the PIDs after `from`, four bytes: which of the next thirty-two are known. @param known - sorted or not */
export function pidMask(from: number, known: readonly number[]): number[] {
  const mask = [0, 0, 0, 0];
  for (const pid of known) {
    const at = pid - from - 1;
    if (at >= 0 && at < 32) mask[at >> 3] = (mask[at >> 3] as number) | (0x80 >> (at & 7));
  }
  return mask;
}

/** PIDs that a mask names. @param mask - four bytes */
export const pidsIn = (from: number, mask: Uint8Array): number[] =>
  Array.from({ length: 32 }, (_, i) => i).flatMap((i) =>
    (mask[i >> 3] as number) & (0x80 >> (i & 7)) ? [from + 1 + i] : [],
  );
