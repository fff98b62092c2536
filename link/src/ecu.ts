import { type EcuAddress, FUNCTIONAL } from "./addresses.ts";
import { codeBytes, NEGATIVE, PIDS, pidMask, REFUSAL, type ReadCode, SERVICE } from "./services.ts";

/** A routine that a control unit runs; ids of the maker's range. */
export interface EcuRoutine {
  readonly id: number;
  /** it ends with the extended session: nobody is watching it any more */
  readonly needsSession: boolean;
  /** @returns a refusal when it does not start now */
  start(): number | undefined;
  stop(): void;
  /** what it has come to, as bytes of its status record; undefined: it was never started */
  result(): Uint8Array | undefined;
}

/** What a control unit answers out of. */
export interface EcuModel {
  readonly address: EcuAddress;
  /** values of mode 01 by channel; undefined: it does not know this one */
  value(channel: string): number | undefined;
  /** data by identifier; undefined: it has none such */
  data(did: number): Uint8Array | undefined;
  /** Takes data of an identifier. @returns a refusal when it does not; absent: nothing can be written */
  write?(did: number, data: Uint8Array): number | undefined;
  codes(): readonly ReadCode[];
  /** identifiers with their data at the moment a code was set */
  freezeFrame(code: string): readonly (readonly [did: number, data: Uint8Array])[];
  clearCodes(): void;
  readonly vin?: string | undefined;
  readonly calibration: string;
  readonly routines: readonly EcuRoutine[];
}

/** A message of an answer with the time it takes. */
export interface Answer {
  readonly afterMs: number;
  readonly data: Uint8Array;
}

const DEFAULT_SESSION = 1;
const EXTENDED_SESSION = 3;
/** Without tester present an extended session ends, ISO 14229-2. */
const SESSION_MS = 5000;
/** Times that a tester may count on after a session answer: 50 ms, and 5 s after "pending", in steps of 10 ms. */
const TIMING = [0x00, 0x32, 0x01, 0xf4] as const;
const MONITOR_STATUS = 0x01;
const PIDS_IN_MASK = 0x20;
const NO_ANSWER = 0x80;
const VIN = 0x02;
const CALIBRATION = 0x04;
const NAME = 0x0a;
const NAME_BYTES = 20;
const CALIBRATION_BYTES = 16;
const ALL_CODES = 0xffffff;
const EMISSION_CODES = 0xffff33;
const CONFIRMED = 0x08;
const PENDING_CODE = 0x04;
const MOST_DIDS = 8;
/** An engine answers emission modes, a transmission its own part of them. */
const ENGINE_ONLY: ReadonlySet<string> = new Set([
  "coolant_c",
  "run_time_s",
  "torque_pct",
  "reference_torque_nm",
  "load_pct",
]);

/** Refusals that are not told to somebody who asked everybody, ISO 14229-1. */
const SILENT: ReadonlySet<number> = new Set([
  REFUSAL.serviceNotSupported,
  REFUSAL.subFunctionNotSupported,
  REFUSAL.outOfRange,
  REFUSAL.subFunctionNotInSession,
  REFUSAL.serviceNotInSession,
]);

const text = (s: string, bytes: number): number[] =>
  [...s.padEnd(bytes, "\0").slice(0, bytes)].map((c) => c.charCodeAt(0));

class Refused extends Error {
  readonly code: number;
  constructor(code: number) {
    super(`0x${code.toString(16)}`);
    this.code = code;
  }
}

/** One control unit: sessions, emission modes, data, codes, routines. Pure: time is told. */
export class Ecu {
  readonly model: EcuModel;
  private session = DEFAULT_SESSION;
  private sessionSinceMs = 0;

  constructor(model: EcuModel) {
    this.model = model;
  }

  /** Does this unit listen to an identifier? */
  hears(id: number): boolean {
    return id === FUNCTIONAL || id === this.model.address.request;
  }

  /** An extended session that nobody keeps up ends, and with it what needs it. */
  tick(nowMs: number): void {
    if (this.session === DEFAULT_SESSION || nowMs - this.sessionSinceMs <= SESSION_MS) return;
    this.leave();
  }
  private leave(): void {
    this.session = DEFAULT_SESSION;
    for (const r of this.model.routines) if (r.needsSession && r.result()) r.stop();
  }

  /**
   * What it answers to a message.
   * @param functional - everybody was asked: refusals of what it does not know are kept quiet
   * @returns nothing when it stays silent
   */
  answer(request: Uint8Array, functional: boolean, nowMs: number): Uint8Array | undefined {
    this.tick(nowMs);
    this.sessionSinceMs = nowMs;
    const [service = -1] = request;
    try {
      const data = this.serve(service, request);
      return data && Uint8Array.from([service + 0x40, ...data]);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      if (functional && SILENT.has(error.code)) return undefined;
      // emission modes have no refusals of their own: what is not known is not answered
      if (service > 0 && service < SERVICE.session) return undefined;
      return Uint8Array.from([NEGATIVE, service, error.code]);
    }
  }

  private serve(service: number, request: Uint8Array): readonly number[] | undefined {
    switch (service) {
      case SERVICE.currentData:
        return this.currentData(request);
      case SERVICE.storedCodes:
        return this.emission(request, CONFIRMED);
      case SERVICE.pendingCodes:
        return this.emission(request, PENDING_CODE);
      case SERVICE.clearEmissionCodes:
        exactly(request, 1);
        this.model.clearCodes();
        return [];
      case SERVICE.vehicleInformation:
        return this.information(request);
      case SERVICE.session:
        return this.sub(request, 2, (sub) => {
          if (sub !== DEFAULT_SESSION && sub !== EXTENDED_SESSION) throw new Refused(REFUSAL.subFunctionNotSupported);
          if (sub === DEFAULT_SESSION && this.session !== sub) this.leave();
          this.session = sub;
          return [sub, ...TIMING];
        });
      case SERVICE.testerPresent:
        return this.sub(request, 2, (sub) => {
          if (sub !== 0) throw new Refused(REFUSAL.subFunctionNotSupported);
          return [0];
        });
      case SERVICE.readData:
        return this.readData(request);
      case SERVICE.readCodes:
        return this.readCodes(request);
      case SERVICE.clearCodes: {
        exactly(request, 4);
        const group = ((request[1] as number) << 16) | ((request[2] as number) << 8) | (request[3] as number);
        if (group !== ALL_CODES && group !== EMISSION_CODES) throw new Refused(REFUSAL.outOfRange);
        this.model.clearCodes();
        return [];
      }
      case SERVICE.security:
        this.extended();
        throw new Refused(REFUSAL.accessDenied);
      case SERVICE.writeData: {
        this.extended();
        if (request.length < 4) throw new Refused(REFUSAL.wrongLength);
        const did = ((request[1] as number) << 8) | (request[2] as number);
        const refusal = this.model.write ? this.model.write(did, request.subarray(3)) : REFUSAL.accessDenied;
        if (refusal !== undefined) throw new Refused(refusal);
        return [did >> 8, did & 0xff];
      }
      case SERVICE.routine:
        return this.routine(request);
      default:
        throw new Refused(REFUSAL.serviceNotSupported);
    }
  }

  private extended(): void {
    if (this.session !== EXTENDED_SESSION) throw new Refused(REFUSAL.serviceNotInSession);
  }

  /** A service with a sub-function whose highest bit asks for no answer. */
  private sub(
    request: Uint8Array,
    bytes: number,
    make: (sub: number) => readonly number[],
  ): readonly number[] | undefined {
    exactly(request, bytes);
    const sub = request[1] as number;
    const data = make(sub & ~NO_ANSWER);
    return sub & NO_ANSWER ? undefined : data;
  }

  private knownPids(): number[] {
    const own = PIDS.filter((p) => this.model.address.name === "engine" || !ENGINE_ONLY.has(p.channel));
    return [MONITOR_STATUS, ...own.filter((p) => this.model.value(p.channel) !== undefined).map((p) => p.pid)];
  }

  private currentData(request: Uint8Array): readonly number[] {
    const asked = request.subarray(1);
    if (asked.length === 0 || asked.length > 6) throw new Refused(REFUSAL.wrongLength);
    const known = this.knownPids();
    const highest = Math.max(...known);
    const out: number[] = [];
    for (const pid of asked) {
      if (pid % PIDS_IN_MASK === 0) {
        // the last bit says that there is another mask behind it
        const masks = Array.from({ length: 7 }, (_, i) => (i + 1) * PIDS_IN_MASK).filter((m) => m < highest);
        if (pid !== 0 && !masks.includes(pid)) continue;
        out.push(pid, ...pidMask(pid, [...known, ...masks]));
      } else if (pid === MONITOR_STATUS) {
        const confirmed = this.model.codes().filter((c) => c.status & CONFIRMED).length;
        out.push(pid, (confirmed > 0 ? 0x80 : 0) | Math.min(0x7f, confirmed), 0, 0, 0);
      } else {
        const p = PIDS.find((x) => x.pid === pid && known.includes(pid));
        const value = p && this.model.value(p.channel);
        if (p && value !== undefined) out.push(pid, ...p.write(value));
      }
    }
    // nothing of what was asked is known
    if (out.length === 0) throw new Refused(REFUSAL.outOfRange);
    return out;
  }

  private emission(request: Uint8Array, status: number): readonly number[] {
    exactly(request, 1);
    const codes = this.model.codes().filter((c) => c.status & status);
    return [codes.length, ...codes.flatMap((c) => codeBytes(c.code))];
  }

  private information(request: Uint8Array): readonly number[] {
    exactly(request, 2);
    const { vin, calibration, address } = this.model;
    const known = [...(vin ? [VIN] : []), CALIBRATION, NAME];
    switch (request[1]) {
      case 0:
        return [0, ...pidMask(0, known)];
      case VIN:
        if (!vin) throw new Refused(REFUSAL.outOfRange);
        return [VIN, 1, ...text(vin, 17)];
      case CALIBRATION:
        return [CALIBRATION, 1, ...text(calibration, CALIBRATION_BYTES)];
      case NAME:
        return [NAME, 1, ...text(address.name === "engine" ? "ECM\0-EngineControl" : "TCM\0-TransmisCtrl", NAME_BYTES)];
      default:
        throw new Refused(REFUSAL.outOfRange);
    }
  }

  private readData(request: Uint8Array): readonly number[] {
    const ids = request.subarray(1);
    if (ids.length === 0 || ids.length % 2 !== 0 || ids.length > 2 * MOST_DIDS) throw new Refused(REFUSAL.wrongLength);
    const out: number[] = [];
    for (let i = 0; i < ids.length; i += 2) {
      const did = ((ids[i] as number) << 8) | (ids[i + 1] as number);
      const data = this.model.data(did);
      if (data) out.push(did >> 8, did & 0xff, ...data);
    }
    if (out.length === 0) throw new Refused(REFUSAL.outOfRange);
    return out;
  }

  private readCodes(request: Uint8Array): readonly number[] | undefined {
    if (request.length < 2) throw new Refused(REFUSAL.wrongLength);
    const sub = (request[1] as number) & ~NO_ANSWER;
    const codes = this.model.codes();
    const bytes = (c: ReadCode) => [...codeBytes(c.code), c.failureType];
    switch (sub) {
      case 0x01: {
        exactly(request, 3);
        const count = codes.filter((c) => c.status & (request[2] as number)).length;
        return [sub, 0xff, 0x01, count >> 8, count & 0xff];
      }
      case 0x02:
        exactly(request, 3);
        return [
          sub,
          0xff,
          ...codes.filter((c) => c.status & (request[2] as number)).flatMap((c) => [...bytes(c), c.status]),
        ];
      case 0x04: {
        exactly(request, 6);
        const code = codes.find((c) => bytes(c).every((b, i) => b === request[2 + i]));
        if (!code) throw new Refused(REFUSAL.outOfRange);
        const frame = this.model.freezeFrame(code.code);
        if (frame.length === 0) return [sub, ...bytes(code), code.status];
        return [
          sub,
          ...bytes(code),
          code.status,
          0x01,
          frame.length,
          ...frame.flatMap(([did, data]) => [did >> 8, did & 0xff, ...data]),
        ];
      }
      case 0x0a:
        exactly(request, 2);
        return [sub, 0xff, ...codes.flatMap((c) => [...bytes(c), c.status])];
      default:
        throw new Refused(REFUSAL.subFunctionNotSupported);
    }
  }

  private routine(request: Uint8Array): readonly number[] | undefined {
    if (request.length < 4) throw new Refused(REFUSAL.wrongLength);
    this.extended();
    const sub = (request[1] as number) & ~NO_ANSWER;
    const id = ((request[2] as number) << 8) | (request[3] as number);
    const routine = this.model.routines.find((r) => r.id === id);
    if (!routine) throw new Refused(REFUSAL.outOfRange);
    const head = [sub, id >> 8, id & 0xff];
    switch (sub) {
      case 0x01: {
        const refusal = routine.start();
        if (refusal !== undefined) throw new Refused(refusal);
        return head;
      }
      case 0x02:
        if (!routine.result()) throw new Refused(REFUSAL.sequenceError);
        routine.stop();
        return head;
      case 0x03: {
        const result = routine.result();
        if (!result) throw new Refused(REFUSAL.sequenceError);
        return [...head, ...result];
      }
      default:
        throw new Refused(REFUSAL.subFunctionNotSupported);
    }
  }
}

function exactly(request: Uint8Array, bytes: number): void {
  if (request.length !== bytes) throw new Refused(REFUSAL.wrongLength);
}
