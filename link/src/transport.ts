import type { CanFrame } from "./frame.ts";

/** Times of ISO 15765-2 and 15765-4, ms, and how long a message may be. */
export interface TransportLimits {
  /** from a first frame or the end of a block until flow control comes */
  readonly flowControlMs: number;
  /** from flow control or a consecutive frame until the next one comes */
  readonly consecutiveMs: number;
  /** flow controls that say "wait" one after another */
  readonly mostWaits: number;
  readonly mostBytes: number;
}

export const USUAL_LIMITS: TransportLimits = {
  flowControlMs: 1000,
  consecutiveMs: 1000,
  mostWaits: 10,
  mostBytes: 4095,
};

export type TransportFailure =
  | "no flow control"
  | "no consecutive frame"
  | "wrong sequence number"
  | "too many waits"
  | "the other side has no room"
  | "message too long"
  | "unknown flow status";

export type TransportEvent =
  | { readonly kind: "frame"; readonly frame: CanFrame }
  | { readonly kind: "message"; readonly data: Uint8Array }
  | { readonly kind: "sent" }
  | { readonly kind: "failed"; readonly doing: "sending" | "receiving"; readonly why: TransportFailure };

export interface EndpointSetup {
  /** identifier that this side sends with, and that it listens to */
  readonly sends: number;
  readonly hears: number;
  /** what this side asks for when it receives: frames a block (0: all), and ms between them */
  readonly blockSize?: number | undefined;
  readonly separationMs?: number | undefined;
  readonly limits?: TransportLimits | undefined;
}

const FRAME_BYTES = 8;
const SINGLE = 0;
const FIRST = 1;
const CONSECUTIVE = 2;
const FLOW = 3;
const PADDING = 0xaa;

/** Frames are filled up to eight bytes, ISO 15765-4. */
function padded(bytes: readonly number[]): Uint8Array {
  const data = new Uint8Array(FRAME_BYTES).fill(PADDING);
  data.set(bytes);
  return data;
}

/** Separation time of a flow control byte, ms: 0 to 127 as they stand, F1 to F9 tenths, everything else the longest. */
export function separationOf(byte: number): number {
  if (byte <= 0x7f) return byte;
  return byte >= 0xf1 && byte <= 0xf9 ? (byte - 0xf0) / 10 : 0x7f;
}
export const separationByte = (ms: number): number =>
  ms > 0 && ms < 1 ? 0xf0 + Math.max(1, Math.min(9, Math.ceil(ms * 10))) : Math.min(0x7f, Math.max(0, Math.ceil(ms)));

interface Sending {
  readonly data: Uint8Array;
  at: number;
  sequence: number;
  waits: number;
  /** undefined: flow control is waited for */
  block: { left: number; separationMs: number; nextMs: number } | undefined;
  sinceMs: number;
}

interface Receiving {
  readonly data: Uint8Array;
  at: number;
  sequence: number;
  leftInBlock: number;
  sinceMs: number;
}

/**
 * One side of a conversation over ISO 15765-2: cuts messages into frames and puts frames together. Pure: frames come in by `hear`,
 * time by `tick`; what is to be sent and what has come stands in the events. Sending and receiving do not disturb each other.
 */
export class TransportEndpoint {
  private readonly setup: EndpointSetup;
  private readonly limits: TransportLimits;
  private sending: Sending | undefined;
  private receiving: Receiving | undefined;

  constructor(setup: EndpointSetup) {
    this.setup = setup;
    this.limits = setup.limits ?? USUAL_LIMITS;
  }

  get busy(): boolean {
    return this.sending !== undefined;
  }

  get receivingNow(): boolean {
    return this.receiving !== undefined;
  }

  /** Ends what was under way; a late frame of it is not taken for the next. */
  reset(): void {
    this.sending = undefined;
    this.receiving = undefined;
  }

  /** @throws RangeError while a message is being sent, or for one without bytes */
  send(data: Uint8Array, nowMs: number): TransportEvent[] {
    if (this.sending) throw new RangeError("a message is being sent already");
    if (data.length === 0) throw new RangeError("a message has at least one byte");
    if (data.length > this.limits.mostBytes) return [{ kind: "failed", doing: "sending", why: "message too long" }];
    if (data.length <= 7) return [this.out([(SINGLE << 4) | data.length, ...data]), { kind: "sent" }];
    const head = [(FIRST << 4) | (data.length >> 8), data.length & 0xff];
    this.sending = { data, at: 6, sequence: 1, waits: 0, block: undefined, sinceMs: nowMs };
    return [this.out([...head, ...data.subarray(0, 6)])];
  }

  hear({ id, data }: CanFrame, nowMs: number): TransportEvent[] {
    const [head = -1] = data;
    if (id !== this.setup.hears || data.length === 0) return [];
    switch (head >> 4) {
      case SINGLE:
        return this.single(data);
      case FIRST:
        return this.first(data, nowMs);
      case CONSECUTIVE:
        return this.consecutive(data, nowMs);
      case FLOW:
        return this.flow(data, nowMs);
      default:
        // of no kind that the standard has: ignored
        return [];
    }
  }

  /** What time has brought: consecutive frames that may go now, and what was waited for too long. */
  tick(nowMs: number): TransportEvent[] {
    const events: TransportEvent[] = [];
    const { sending, receiving } = this;
    if (receiving && nowMs - receiving.sinceMs > this.limits.consecutiveMs) {
      this.receiving = undefined;
      events.push({ kind: "failed", doing: "receiving", why: "no consecutive frame" });
    }
    if (!sending) return events;
    if (!sending.block) {
      if (nowMs - sending.sinceMs > this.limits.flowControlMs) {
        this.sending = undefined;
        events.push({ kind: "failed", doing: "sending", why: "no flow control" });
      }
      return events;
    }
    events.push(...this.continue(sending, nowMs));
    return events;
  }

  private continue(sending: Sending, nowMs: number): TransportEvent[] {
    const events: TransportEvent[] = [];
    while (sending.block && sending.block.nextMs <= nowMs) {
      const { block, data } = sending;
      const part = data.subarray(sending.at, sending.at + 7);
      events.push(this.out([(CONSECUTIVE << 4) | sending.sequence, ...part]));
      sending.sequence = (sending.sequence + 1) & 0xf;
      sending.at += part.length;
      if (sending.at >= data.length) {
        this.sending = undefined;
        events.push({ kind: "sent" });
        return events;
      }
      block.nextMs = nowMs + block.separationMs;
      if (block.left > 0) {
        block.left--;
        if (block.left === 0) {
          sending.block = undefined;
          sending.sinceMs = nowMs;
        }
      }
    }
    return events;
  }

  private single(data: Uint8Array): TransportEvent[] {
    const length = (data[0] as number) & 0xf;
    if (length === 0 || length > 7 || data.length < length + 1) return [];
    // a new message ends one that was being received
    this.receiving = undefined;
    return [{ kind: "message", data: data.slice(1, 1 + length) }];
  }

  private first(data: Uint8Array, nowMs: number): TransportEvent[] {
    if (data.length < FRAME_BYTES) return [];
    const length = (((data[0] as number) & 0xf) << 8) | (data[1] as number);
    // what a single frame holds needs no first one; nought begins a length of four bytes, longer than is taken
    if (length > 0 && length <= 7) return [];
    if (length === 0 || length > this.limits.mostBytes) {
      this.receiving = undefined;
      return [this.out([(FLOW << 4) | 2, 0, 0]), { kind: "failed", doing: "receiving", why: "message too long" }];
    }
    const whole = new Uint8Array(length);
    whole.set(data.subarray(2, 8));
    const blockSize = this.setup.blockSize ?? 0;
    this.receiving = { data: whole, at: 6, sequence: 1, leftInBlock: blockSize, sinceMs: nowMs };
    return [this.clear()];
  }

  private consecutive(data: Uint8Array, nowMs: number): TransportEvent[] {
    const { receiving } = this;
    // of nothing that is being received: ignored
    if (!receiving) return [];
    if (((data[0] as number) & 0xf) !== receiving.sequence) {
      this.receiving = undefined;
      return [{ kind: "failed", doing: "receiving", why: "wrong sequence number" }];
    }
    const part = data.subarray(1, 1 + Math.min(7, receiving.data.length - receiving.at));
    const wanted = Math.min(7, receiving.data.length - receiving.at);
    if (part.length < wanted) return [];
    receiving.data.set(part, receiving.at);
    receiving.at += part.length;
    receiving.sequence = (receiving.sequence + 1) & 0xf;
    receiving.sinceMs = nowMs;
    if (receiving.at >= receiving.data.length) {
      this.receiving = undefined;
      return [{ kind: "message", data: receiving.data }];
    }
    if (receiving.leftInBlock > 0) {
      receiving.leftInBlock--;
      if (receiving.leftInBlock === 0) {
        receiving.leftInBlock = this.setup.blockSize ?? 0;
        return [this.clear()];
      }
    }
    return [];
  }

  private flow(data: Uint8Array, nowMs: number): TransportEvent[] {
    const { sending } = this;
    if (!sending || sending.block || data.length < 3) return [];
    const failed = (why: TransportFailure): TransportEvent[] => {
      this.sending = undefined;
      return [{ kind: "failed", doing: "sending", why }];
    };
    switch ((data[0] as number) & 0xf) {
      case 0:
        sending.waits = 0;
        sending.block = { left: data[1] as number, separationMs: separationOf(data[2] as number), nextMs: nowMs };
        return this.continue(sending, nowMs);
      case 1:
        sending.waits++;
        sending.sinceMs = nowMs;
        return sending.waits > this.limits.mostWaits ? failed("too many waits") : [];
      case 2:
        return failed("the other side has no room");
      default:
        return failed("unknown flow status");
    }
  }

  private clear(): TransportEvent {
    return this.out([FLOW << 4, this.setup.blockSize ?? 0, separationByte(this.setup.separationMs ?? 0)]);
  }

  private out(bytes: readonly number[]): TransportEvent {
    return { kind: "frame", frame: { id: this.setup.sends, data: padded(bytes) } };
  }
}
