import { ECUS, type EcuAddress, ENGINE, TRANSMISSION } from "./addresses.ts";
import { InOrder, LineClock } from "./bus-side.ts";
import {
  decodeChannel,
  didOf,
  type LinkChannel,
  type LinkDefinition,
  SIMULATED_DID,
  SIMULATED_TEXT,
} from "./definition.ts";
import { type CanFrame, LineReader, readFrame, writeFrame } from "./frame.ts";
import { guardRequest } from "./guard.ts";
import { type Patience, Requester, USUAL_PATIENCE } from "./requester.ts";
import { emissionCodes, PIDS, type ReadCode, SERVICE, statusCodes } from "./services.ts";

/** The way to a vehicle: text out, text in. A hardware adapter that speaks the same lines is another one of these. */
export interface Wire {
  send(text: string): void;
  close(): void;
  onText(take: (text: string) => void): void;
  /** told once; why in words */
  onClose(take: (why: string) => void): void;
}

/** A control unit that refused or did not answer, or a link that is gone. */
export class LinkError extends Error {
  readonly kind: "refused" | "failed" | "gone";
  constructor(kind: "refused" | "failed" | "gone", message: string) {
    super(message);
    this.kind = kind;
  }
}

/** What a control unit answered, and when the line that ended it was sent, by the clock of whoever wrote it, s. */
export interface TimedAnswer {
  readonly data: Uint8Array;
  readonly timeS: number | undefined;
}

interface Question {
  readonly request: Uint8Array;
  readonly resolve: (answer: TimedAnswer) => void;
  readonly reject: (error: Error) => void;
}

interface Side {
  readonly address: EcuAddress;
  readonly requester: Requester;
  readonly queue: Question[];
  now: Question | undefined;
}

/** How often the clock is looked at while something is asked, ms. */
const TICK_MS = 4;
/** Identifiers in one question: seven bytes and a first frame hold them. */
export const DIDS_AT_ONCE = 8;

/**
 * A conversation with the control units of one vehicle. Questions to one of them wait for each other, those to different ones do not.
 * To anything but the simulated vehicle only what reads is sent.
 */
export class LinkSession {
  private readonly wire: Wire;
  private readonly sides: readonly Side[];
  private readonly reader = new LineReader();
  private readonly order = new InOrder();
  private readonly clock = new LineClock();
  private timer: ReturnType<typeof setInterval> | undefined;
  private gone: string | undefined;
  private simulated = false;
  private readonly goneListeners: ((why: string) => void)[] = [];

  private constructor(wire: Wire, patience: Patience) {
    this.wire = wire;
    this.sides = ECUS.map((address) => ({
      address,
      requester: new Requester(address, patience),
      queue: [],
      now: undefined,
    }));
    wire.onText((text) => this.take(text));
    wire.onClose((why) => this.end(why));
  }

  /** Begins, and asks who is there. The link may be silent: then nothing simulated is there. */
  static async open(wire: Wire, patience: Patience = USUAL_PATIENCE): Promise<LinkSession> {
    const session = new LinkSession(wire, patience);
    try {
      const data = await session.request(
        TRANSMISSION,
        Uint8Array.from([SERVICE.readData, SIMULATED_DID >> 8, SIMULATED_DID & 0xff]),
      );
      session.simulated = new TextDecoder("latin1").decode(data.subarray(2)) === SIMULATED_TEXT;
    } catch (error) {
      if (!(error instanceof LinkError) || error.kind === "gone") throw error;
    }
    return session;
  }

  get isSimulated(): boolean {
    return this.simulated;
  }
  get isOpen(): boolean {
    return this.gone === undefined;
  }
  onGone(take: (why: string) => void): void {
    if (this.gone === undefined) this.goneListeners.push(take);
    else take(this.gone);
  }

  close(): void {
    this.end("the link was closed");
    this.wire.close();
  }

  /**
   * Asks a control unit.
   * @returns what stands behind the head of its answer
   * @throws WriteRefused for what changes something in a vehicle that is not simulated; LinkError when it refuses, does not answer,
   * or the link is gone
   */
  async request(address: EcuAddress, request: Uint8Array): Promise<Uint8Array> {
    return (await this.ask(address, request)).data;
  }

  /** As {@link request}, with the time of the answer. */
  async ask(address: EcuAddress, request: Uint8Array): Promise<TimedAnswer> {
    guardRequest(request, this.simulated);
    const side = this.sides.find((s) => s.address.request === address.request);
    if (!side) throw new RangeError(`no control unit answers to 0x${address.request.toString(16)}`);
    return new Promise((resolve, reject) => {
      if (this.gone !== undefined) {
        reject(new LinkError("gone", this.gone));
        return;
      }
      side.queue.push({ request, resolve, reject });
      this.next(side);
      this.timer ??= setInterval(() => this.tick(), TICK_MS);
    });
  }

  private next(side: Side): void {
    if (side.now) return;
    side.now = side.queue.shift();
    if (side.now) this.say(side.requester.ask(side.now.request, performance.now()));
  }

  private take(text: string): void {
    for (const line of this.reader.take(text)) {
      const read = readFrame(line);
      if (!read || !this.order.takes(read.frame, read.timeS)) continue;
      for (const side of this.sides) this.say(side.requester.hear(read.frame, performance.now()));
      this.settle(read.timeS);
    }
  }

  private tick(): void {
    for (const side of this.sides) this.say(side.requester.tick(performance.now()));
    this.settle();
    if (this.sides.every((s) => !s.now)) {
      clearInterval(this.timer);
      this.timer = undefined;
    }
  }

  private settle(timeS?: number): void {
    for (const side of this.sides) {
      const { outcome } = side.requester;
      const question = side.now;
      if (!question || side.requester.asking || !outcome) continue;
      side.now = undefined;
      if (outcome.kind === "answer") question.resolve({ data: outcome.data, timeS });
      else
        question.reject(
          outcome.kind === "refused"
            ? new LinkError("refused", `The ${side.address.name} refused: ${outcome.words}.`)
            : new LinkError("failed", `The ${side.address.name}: ${outcome.why}.`),
        );
      this.next(side);
    }
  }

  private say(frames: readonly CanFrame[]): void {
    if (frames.length === 0 || this.gone !== undefined) return;
    this.wire.send(frames.map((f) => `${writeFrame(f, this.clock.next(performance.now()))}\n`).join(""));
  }

  private end(why: string): void {
    if (this.gone !== undefined) return;
    this.gone = why;
    clearInterval(this.timer);
    this.timer = undefined;
    for (const side of this.sides) {
      side.requester.cancel(why);
      for (const q of [...(side.now ? [side.now] : []), ...side.queue]) q.reject(new LinkError("gone", why));
      side.now = undefined;
      side.queue.length = 0;
    }
    for (const take of this.goneListeners) take(why);
  }
}

/** Number of the vehicle. @returns undefined when nobody tells it */
export async function readVin(session: LinkSession): Promise<string | undefined> {
  for (const { address, request, skip } of [
    { address: ECUS[0] as EcuAddress, request: [SERVICE.vehicleInformation, 0x02], skip: 2 },
    { address: ECUS[1] as EcuAddress, request: [SERVICE.readData, 0xf1, 0x90], skip: 2 },
  ]) {
    try {
      const data = await session.request(address, Uint8Array.from(request));
      const text = new TextDecoder("latin1").decode(data.subarray(skip)).replace(/[^A-Z0-9]/gi, "");
      if (text.length === 17) return text.toUpperCase();
    } catch (error) {
      if (!(error instanceof LinkError) || error.kind === "gone") throw error;
    }
  }
  return undefined;
}

/** A value of mode 01 of the engine, in its unit. @throws LinkError when it is refused or cannot be read */
export async function readPid(session: LinkSession, channel: string): Promise<number> {
  const pid = PIDS.find((p) => p.channel === channel);
  if (!pid) throw new RangeError(`no emission mode tells "${channel}"`);
  const data = await session.request(ENGINE, Uint8Array.from([SERVICE.currentData, pid.pid]));
  const bytes = data.subarray(1, 1 + pid.bytes);
  if (bytes.length < pid.bytes) throw new LinkError("failed", `The engine told too little of "${channel}".`);
  return pid.read(bytes);
}

/** Codes of every control unit that answers, with who has stored them. */
export async function readAllCodes(session: LinkSession): Promise<(ReadCode & { readonly ecu: EcuAddress["name"] })[]> {
  const found: (ReadCode & { readonly ecu: EcuAddress["name"] })[] = [];
  for (const address of ECUS) {
    try {
      const codes = statusCodes(await session.request(address, Uint8Array.from([SERVICE.readCodes, 0x02, 0xff])));
      found.push(...(codes ?? []).map((c) => ({ ...c, ecu: address.name })));
    } catch (error) {
      if (!(error instanceof LinkError) || error.kind === "gone") throw error;
      // an older unit tells them by the emission modes only
      const codes =
        error.kind === "refused"
          ? emissionCodes(await session.request(address, Uint8Array.from([SERVICE.storedCodes])))
          : undefined;
      found.push(...(codes ?? []).map((code) => ({ code, failureType: 0, status: 0x08, ecu: address.name })));
    }
  }
  return found;
}

/** Channels of one control unit that are asked for together. */
export interface Batch {
  readonly address: EcuAddress;
  readonly channels: readonly LinkChannel[];
}

/** The channels in questions of up to {@link DIDS_AT_ONCE} identifiers, each to one control unit. */
export function batchesOf(definition: LinkDefinition, wanted: readonly string[]): Batch[] {
  return ECUS.flatMap((address) => {
    const mine = definition.channels.filter((c) => c.ecu === address.name && wanted.includes(c.channel));
    return Array.from({ length: Math.ceil(mine.length / DIDS_AT_ONCE) }, (_, i) => ({
      address,
      channels: mine.slice(i * DIDS_AT_ONCE, (i + 1) * DIDS_AT_ONCE),
    }));
  });
}

/**
 * Values of an answer to a question for several identifiers, in the order of the answer; an identifier that is not among those asked
 * ends it: its length is not known.
 */
export function valuesIn(channels: readonly LinkChannel[], data: Uint8Array): Map<string, number> {
  const values = new Map<string, number>();
  for (let at = 0; at + 2 <= data.length; ) {
    const did = ((data[at] as number) << 8) | (data[at + 1] as number);
    const channel = channels.find((c) => didOf(c) === did);
    if (!channel) break;
    const value = decodeChannel(channel, data.subarray(at + 2));
    if (value === undefined) break;
    values.set(channel.channel, value);
    at += 2 + channel.bytes;
  }
  return values;
}

/** Asks for a batch. @throws LinkError as {@link LinkSession.request} */
export async function readBatch(
  session: LinkSession,
  { address, channels }: Batch,
): Promise<{ readonly values: ReadonlyMap<string, number>; readonly timeS: number | undefined }> {
  const request = [SERVICE.readData, ...channels.flatMap((c) => [didOf(c) >> 8, didOf(c) & 0xff])];
  const { data, timeS } = await session.ask(address, Uint8Array.from(request));
  return { values: valuesIn(channels, data), timeS };
}
