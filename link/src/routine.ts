import { TRANSMISSION } from "./addresses.ts";
import { decodeChannel, didOf, encodeChannel, type LinkChannel } from "./definition.ts";
import { SERVICE } from "./services.ts";
import { LinkError, type LinkSession } from "./session.ts";

/** How a routine of the simulated control unit stands; five bytes, see docs/formats.md. */
export interface RoutineStatusRecord {
  readonly state: "running" | "done" | "stopped" | "failed";
  readonly code: number;
  /** where the lever is to go; undefined: where it is */
  readonly lever: "P" | "R" | "N" | "D" | undefined;
  readonly progressPct: number;
  /** element of the unit file, counted from 1; 0: none */
  readonly element: number;
}

const STATES = ["running", "done", "stopped", "failed"] as const;
const LEVERS = ["P", "R", "N", "D"] as const;

export const writeRoutineStatus = (s: RoutineStatusRecord): Uint8Array =>
  Uint8Array.from([
    STATES.indexOf(s.state) + 1,
    s.code,
    s.lever === undefined ? 0 : LEVERS.indexOf(s.lever) + 1,
    Math.min(100, Math.max(0, Math.round(s.progressPct))),
    s.element,
  ]);

/** @returns undefined for bytes that are no status */
export function readRoutineStatus(data: Uint8Array): RoutineStatusRecord | undefined {
  const [state = 0, code = 0, lever = 0, progressPct = 0, element = 0] = data;
  const known = STATES[state - 1];
  if (data.length < 5 || known === undefined || lever > LEVERS.length) return undefined;
  return { state: known, code, lever: LEVERS[lever - 1], progressPct, element };
}

const EXTENDED = 3;
const START = 1;
const STOP = 2;
const RESULT = 3;
const ask = (session: LinkSession, ...bytes: number[]) => session.request(TRANSMISSION, Uint8Array.from(bytes));
const routine = (session: LinkSession, sub: number, id: number) =>
  ask(session, SERVICE.routine, sub, id >> 8, id & 0xff);

/** Routines and writing are offered in the extended session; it ends by itself when nobody asks for five seconds. */
export async function extendSession(session: LinkSession): Promise<void> {
  await ask(session, SERVICE.session, EXTENDED);
}
/** @throws LinkError with the refusal in words; WriteRefused for a vehicle that is not simulated */
export async function startRoutine(session: LinkSession, id: number): Promise<void> {
  await extendSession(session);
  await routine(session, START, id);
}
/** A routine that has ended by itself is not stopped once more. */
export async function stopRoutine(session: LinkSession, id: number): Promise<void> {
  await routine(session, STOP, id);
}
/** @throws LinkError also for a record that cannot be read */
export async function askRoutine(session: LinkSession, id: number): Promise<RoutineStatusRecord> {
  const status = readRoutineStatus((await routine(session, RESULT, id)).subarray(3));
  if (!status) throw new LinkError("failed", "The transmission told a status of the routine that cannot be read.");
  return status;
}

/**
 * Writes a value and reads it back.
 * @throws LinkError when it is refused or does not stand there afterwards
 */
export async function writeValue(session: LinkSession, channel: LinkChannel, value: number): Promise<void> {
  const did = didOf(channel);
  await extendSession(session);
  await ask(session, SERVICE.writeData, did >> 8, did & 0xff, ...encodeChannel(channel, value));
  const back = decodeChannel(channel, (await ask(session, SERVICE.readData, did >> 8, did & 0xff)).subarray(2));
  if (back === undefined || Math.abs(back - value) > channel.scale / 2 + 1e-9)
    throw new LinkError("failed", `${channel.channel} was written as ${value} and reads ${back ?? "nothing"}.`);
}
